require ["fileinto", "imap4flags"];

# All of the box office
if address :domain :is "from" "boxoffice.example" {
    fileinto "Box office";
    stop;
}

# Refunds of the box office
if allof (address :is "from" "refund@boxoffice.example", header :contains "subject" "refund") {
    fileinto "Refunds";
    stop;
}

# Box office at night
if allof (address :domain :is "from" "boxoffice.example", size :under 1K) {
    discard;
    stop;
}

# Costumes
if header :matches "subject" ["costume", "wardrobe"] {
    fileinto "Costumes";
    stop;
}

# Lights
if allof (header :contains "subject" "lamp", not header :contains "subject" "lamp") {
    fileinto "Lights";
    stop;
}

# Critics
if anyof (header :contains "subject" "critic", header :contains "subject" "critical review") {
    fileinto "Critics";
    stop;
}
