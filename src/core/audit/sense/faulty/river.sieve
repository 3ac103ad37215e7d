require ["fileinto", "imap4flags", "variables"];

# Gauge
if anyof (header :contains "subject" "gauge", header :contains "subject" "level") {
    fileinto "Gauge";
    stop;
}

# Gauge rising
if allof (header :contains "subject" "gauge", header :contains "subject" "rising") {
    addflag "\\Flagged";
    keep;
    stop;
}

# Level falling
if allof (header :contains "subject" "level", header :contains "subject" "falling") {
    fileinto "Falling";
    stop;
}

# Level or gauge, doubled
if header :contains "subject" "level of the gauge" {
    fileinto "Doubled";
    stop;
}

# Anglers
if allof (not anyof (address :domain :is "from" "anglers.example", address :domain :is "from" "rods.example"), address :domain :is "from" "rods.example") {
    fileinto "Anglers";
    stop;
}
