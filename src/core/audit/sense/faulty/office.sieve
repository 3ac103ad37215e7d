require ["fileinto", "imap4flags", "copy"];

# To everybody
if address :is ["to", "cc"] "all@office.example" {
    fileinto "Notices";
    stop;
}

# Notices of the lift
if allof (address :is "to" "all@office.example", header :contains "subject" "lift") {
    addflag "\\Flagged";
}

# Fire drills
if allof (address :is "cc" "all@office.example", header :contains "subject" "drill") {
    addflag "\\Flagged";
}

# Keys, and every key
if header :contains "subject" ["key", "keys", "key card"] {
    fileinto "Keys";
    stop;
}

# Lost keys
if header :contains "subject" "lost key" {
    redirect :copy "porter@office.example";
}

# Porter
if address :contains "from" "Porter, Front Desk" {
    fileinto "Porter";
    stop;
}
