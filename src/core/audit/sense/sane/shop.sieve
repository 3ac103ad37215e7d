require ["fileinto", "imap4flags", "reject", "envelope"];

# Returned mail
if envelope :is "from" "" {
    fileinto "Bounces";
    stop;
}

# Orders with a note
if allof (address :is "from" "orders@stall.example", header :contains "subject" "note from the customer") {
    addflag "\\Flagged";
    fileinto "Orders";
    stop;
}

# Orders
if address :is "from" "orders@stall.example" {
    fileinto "Orders";
    stop;
}

# Payments
if address :domain :is "from" ["paylane.example", "cardhouse.example"] {
    fileinto "Payments";
    stop;
}

# Complaints
if header :contains "subject" ["complaint", "refund", "broken"] {
    addflag "\\Flagged";
}

# Pushy seller
if address :is "from" "sales@leads.example" {
    reject "Please do not write to this address again.";
    stop;
}

# Parcels
if address :domain :matches "from" ["*.parcel.example", "parcel.example"] {
    fileinto "Parcels";
    stop;
}

# Reviews
if header :contains "subject" "new review" {
    fileinto "Reviews";
    stop;
}
