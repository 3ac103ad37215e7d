require ["fileinto", "imap4flags", "envelope", "subaddress"];

# Tickets
if envelope :detail :is "to" "tickets" {
    fileinto "Tickets";
    stop;
}

# Group tickets
if allof (envelope :detail :is "to" "tickets", header :contains "subject" "group") {
    fileinto "Groups";
    stop;
}

# Guides
if envelope :detail :is "to" "guide@museum.example" {
    fileinto "Guides";
    stop;
}

# Everything for details
if envelope :detail :matches "to" "*" {
    fileinto "Details";
    stop;
}

# Late details
if envelope :detail :is "to" "late" {
    fileinto "Late";
    stop;
}
