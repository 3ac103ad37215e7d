require ["fileinto", "date", "relational", "imap4flags"];

# Old mail that arrives late
if date :value "lt" "date" "year" "2015" {
    fileinto "Old";
    stop;
}

# Reports of Monday
if allof (address :is "from" "report@works.example", currentdate :is "weekday" "1") {
    addflag "\\Flagged";
    fileinto "Reports";
    stop;
}

# Reports
if address :is "from" "report@works.example" {
    fileinto "Reports";
    stop;
}

# Night shift
if allof (address :is "from" "shift@works.example", currentdate :value "ge" "hour" "22") {
    fileinto "Night";
    stop;
}

# Shifts
if address :is "from" "shift@works.example" {
    fileinto "Shifts";
    stop;
}
