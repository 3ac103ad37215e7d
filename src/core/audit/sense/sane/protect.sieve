require ["fileinto", "imap4flags"];

# Solicitor
if address :is "from" "solicitor@lawhouse.example" {
    addflag "\\Flagged";
    keep;
    stop;
}

# Replies to me
if header :contains "in-reply-to" "@home.example" {
    keep;
    stop;
}

# Prizes, the village fair aside
if allof (header :contains "subject" ["prize", "lottery"], not address :domain :is "from" "villagefair.example") {
    fileinto "Doubtful";
    stop;
}

# No recipients
if not exists ["to", "cc"] {
    fileinto "Doubtful";
    stop;
}

# Not to me
if not address :is ["to", "cc", "bcc"] ["me@home.example", "myself@home.example"] {
    fileinto "Not to me";
    stop;
}
