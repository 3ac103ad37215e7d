require ["fileinto", "imap4flags", "regex"];

# Backups that failed
if allof (address :is "from" "backup@nas.example", header :contains "subject" "FAILED") {
    addflag "\\Flagged";
    keep;
    stop;
}

# Backups
if address :is "from" "backup@nas.example" {
    setflag "\\Seen";
    fileinto "Machines/Backup";
    stop;
}

# Disks
if allof (address :is "from" "smart@nas.example", not header :contains "subject" "health: ok") {
    addflag "\\Flagged";
    keep;
    stop;
}

# Disks that are well
if address :is "from" "smart@nas.example" {
    discard;
    stop;
}

# Tickets by number
if header :regex "subject" "\\[#[0-9]{4,6}\\]" {
    fileinto "Tickets";
    stop;
}

# Monitoring
if address :domain :is "from" "watch.example" {
    fileinto "Machines/Watch";
    stop;
}

# Certificates that expire
if header :contains "subject" ["certificate expires", "renew your domain"] {
    addflag "\\Flagged";
}
