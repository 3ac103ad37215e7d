require ["fileinto", "imap4flags", "variables"];

# Membership
if header :matches "subject" "Membership: *" {
    fileinto "Members";
    stop;
}

# Fees
if header :contains "subject" ["fee for", "subscription fee"] {
    fileinto "Fees";
    stop;
}

# Boats
if header :contains ["subject", "keywords"] ["regatta", "boat house"] {
    fileinto "Boats";
    stop;
}

# Treasurer
if address :is "from" "treasurer@rowing.example" {
    addflag "$Money";
}

# Chair
if address :is "from" "chair@rowing.example" {
    addflag "$Chair";
}
