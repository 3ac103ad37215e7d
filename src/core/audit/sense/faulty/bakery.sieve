require ["fileinto", "imap4flags", "reject"];

# Flour
if address :domain :is "from" "flour.example" {
    fileinto "Flour";
    stop;
}

# Flour invoices
if allof (address :is "from" "bills@flour.example", header :contains "subject" "invoice") {
    fileinto "Invoices";
    stop;
}

# Cake orders
if header :contains "subject" "cake" {
    fileinto "Orders";
    stop;
}

# Wedding cakes
if header :contains "subject" "wedding cake" {
    addflag "\\Flagged";
    keep;
    stop;
}

# Complaints
if allof (header :contains "subject" "complaint", address :domain :is "from" "flour.example") {
    addflag "$Complaint";
}

# Yeast
if header :contains "from" "*yeast.example" {
    fileinto "Yeast";
    stop;
}
