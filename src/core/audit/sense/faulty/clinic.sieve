require ["fileinto", "imap4flags", "body"];

# Bulk mail
if body :contains ["unsubscribe", "opt out"] {
    fileinto "Reading";
    stop;
}

# Flagged already
if hasflag "$Seen-by-nurse" {
    fileinto "Seen";
    stop;
}

# Laboratory
if address :domain :is "from" "lab.example" {
    fileinto "Lab";
    stop;
}

# Laboratory results
if address :is "from" "results@lab.example" {
    fileinto "Lab/Results";
    stop;
}

# Pharmacy
if anyof (address :domain :is "from" "pharmacy.example", address :is "from" "orders@pharmacy.example") {
    fileinto "Pharmacy";
    stop;
}
