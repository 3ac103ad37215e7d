require ["fileinto", "imap4flags", "date", "relational"];

# Election of 2021
if allof (currentdate :value "le" "date" "2021-10-01", header :contains "subject" "election") {
    fileinto "Election";
    stop;
}

# Before six and after ten
if allof (currentdate :value "lt" "hour" "06", currentdate :value "gt" "hour" "22") {
    fileinto "Old";
    stop;
}

# Agency
if address :domain :is "from" "agency.example" {
    fileinto "Agency";
    stop;
}

# Agency, urgent
if allof (address :domain :is "from" "agency.example", header :is "x-priority" "1") {
    addflag "\\Flagged";
    keep;
    stop;
}

# Letters
if header :contains "subject" "letter to the editor" {
    fileinto "Letters";
    discard;
}
