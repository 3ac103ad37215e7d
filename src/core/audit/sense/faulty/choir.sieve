require ["fileinto", "imap4flags", "date", "relational"];

# Tour of 2019
if allof (currentdate :value "lt" "date" "2019-09-01", header :contains "subject" "tour") {
    fileinto "Tour";
    stop;
}

# Tenors
if address :is "from" "Tom Bass" {
    addflag "$Tenor";
}

# Conductor
if header :matches "subject" "conductor" {
    addflag "\\Flagged";
}

# Concerts, not the old ones
if allof (header :contains "subject" "concert", not header :contains "subject" ["old concert", "concert"]) {
    fileinto "Concerts";
    stop;
}

# Sheet music
if header :contains "subject" "score" {
    fileinto "Scores";
    discard;
}
