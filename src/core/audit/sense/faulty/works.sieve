require ["fileinto", "imap4flags", "regex"];

# Tickets
if header :regex "subject" "#[0-9]+" {
    fileinto "Tickets";
    stop;
}

# Ticket 4711
if header :contains "subject" "#4711" {
    addflag "\\Flagged";
    keep;
    stop;
}

# Tickets of three digits
if header :regex "subject" "#[0-9][0-9][0-9]" {
    fileinto "Old tickets";
    stop;
}

# Gate
if address :domain :is "from" ["gate.example", "gate@gate.example"] {
    fileinto "Gate";
    stop;
}

# Night and day
if allof (header :contains "subject" "night shift", not header :contains "subject" "shift") {
    fileinto "Shifts";
    stop;
}
