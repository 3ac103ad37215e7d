require ["fileinto", "imap4flags", "copy"];

# Grandmother
if address :is "from" "nana@post.example" {
    addflag "\\Flagged";
    keep;
    stop;
}

# Brother
if address :is "from" ["tom@hills.example", "tom.reed@work.example"] {
    fileinto "Family";
    stop;
}

# Photos of the children
if allof (address :domain :is "from" "nursery.example", header :contains "subject" ["photo", "picture"]) {
    fileinto :copy "Photos";
    fileinto "Nursery";
    stop;
}

# Nursery
if address :domain :is "from" "nursery.example" {
    fileinto "Nursery";
    stop;
}

# Doctor
if address :domain :is "from" "surgery.example" {
    addflag "$Health";
    fileinto "Health";
    stop;
}

# Insurance
if address :domain :is "from" "shield.example" {
    fileinto "Insurance";
    stop;
}

# Travel
if header :contains "subject" ["boarding", "itinerary", "your booking"] {
    fileinto "Travel";
}
