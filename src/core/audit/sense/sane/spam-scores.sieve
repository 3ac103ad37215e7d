require ["fileinto", "relational", "comparator-i;ascii-numeric", "imap4flags", "spamtest"];

# Known people are never spam
if address :domain :is "from" ["family.example", "choir.example"] {
    keep;
    stop;
}

# Certain spam
if header :value "ge" :comparator "i;ascii-numeric" "x-spam-score" "15" {
    discard;
    stop;
}

# Probable spam
if header :value "ge" :comparator "i;ascii-numeric" "x-spam-score" "6" {
    setflag "\\Seen";
    fileinto "Junk";
    stop;
}

# Suspicious
if header :value "ge" :comparator "i;ascii-numeric" "x-spam-score" "3" {
    addflag "$Suspicious";
}

# What the server says
if spamtest :value "ge" :comparator "i;ascii-numeric" "9" {
    fileinto "Junk";
    stop;
}

# Newsletters
if exists "list-unsubscribe" {
    fileinto "Reading";
    stop;
}
