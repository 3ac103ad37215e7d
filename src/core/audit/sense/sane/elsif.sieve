require ["fileinto", "imap4flags"];

# Important customers
if address :is "from" ["a@first.example", "b@second.example"] {
    addflag "\\Flagged";
}

# Newsletters
if exists "list-unsubscribe" {
    addflag "$Newsletter";
}

# Invoices
if header :contains "subject" "invoice" {
    fileinto "Invoices";
}
# Offers
elsif header :contains "subject" "offer" {
    fileinto "Offers";
}
# Orders
elsif header :contains "subject" "order" {
    fileinto "Orders";
}
# The rest
else {
    keep;
}
