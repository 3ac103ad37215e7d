require ["fileinto", "mime", "foreverypart", "imap4flags"];

# Programs
foreverypart {
    if header :mime :param "filename" :matches ["content-disposition", "content-type"] ["*.exe", "*.scr"] {
        fileinto "Quarantine";
        stop;
    }
}

# Scans
if address :is "from" "scanner@office.example" {
    fileinto "Scans";
    stop;
}

# Large from the printer
if allof (address :domain :is "from" "printer.example", size :over 5M) {
    fileinto "Proofs";
    stop;
}

# Printer
if address :domain :is "from" "printer.example" {
    fileinto "Printer";
    stop;
}

# Voice messages
if header :contains "subject" "voice message from" {
    addflag "$Voice";
}
