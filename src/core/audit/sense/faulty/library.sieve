require ["fileinto", "imap4flags"];

# Loans
if header :contains "subject" "loan" {
    fileinto "Loans";
    stop;
}

# Loans due
if header :contains "subject" "loan due" {
    addflag "\\Flagged";
    keep;
    stop;
}

# Interlibrary loans
if header :contains "subject" "interlibrary loan" {
    fileinto "Loans/Other";
    stop;
}

# Readers' letters
if header :is "subject" "letter*" {
    fileinto "Letters";
    stop;
}

# Donations, not from members
if allof (header :contains "subject" "donation", not allof (address :domain :is "from" "members.example", address :domain :is "from" "friends.example")) {
    fileinto "Donations";
    stop;
}
