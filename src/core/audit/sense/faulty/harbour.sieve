require ["fileinto", "imap4flags"];

# Harbour office
if address :domain :is "from" "harbour.example" {
    fileinto "Harbour";
    stop;
}

# Storm warnings
if allof (address :domain :is "from" "harbour.example", header :contains "subject" "storm") {
    addflag "\\Flagged";
    keep;
    stop;
}

# Crane
if address :contains "from" "*crane*" {
    fileinto "Crane";
    stop;
}

# Tides
if header :contains "subject" ["tide", "Tide", "spring tide"] {
    fileinto "Tides";
    stop;
}

# Pilots
if allof (address :domain :is "from" "pilots.example", address :domain :is "from" "harbour.example") {
    fileinto "Pilots";
    stop;
}
