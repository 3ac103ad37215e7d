require ["fileinto", "imap4flags", "copy", "body"];

# From the director
if address :is "from" "director@foundry.example" {
    addflag "\\Flagged";
}

# Invoices for the accountant
if allof (address :domain :is "from" "supplier.example", header :contains "subject" "invoice") {
    redirect :copy "books@foundry.example";
    fileinto "Invoices";
    stop;
}

# Supplier
if address :domain :is "from" "supplier.example" {
    fileinto "Suppliers";
    stop;
}

# Calendar
if body :content "text/calendar" :contains "BEGIN:VCALENDAR" {
    fileinto "Calendar";
    stop;
}

# Project Anvil
if header :contains "subject" "[anvil]" {
    fileinto "Projects/Anvil";
    stop;
}

# Project Bellows
if header :contains "subject" "[bellows]" {
    fileinto "Projects/Bellows";
    stop;
}

# Large
if size :over 10M {
    fileinto "Large";
    stop;
}

# Reports by night
if allof (address :is "from" "cron@foundry.example", size :under 2K) {
    discard;
    stop;
}

# Other reports
if address :is "from" "cron@foundry.example" {
    fileinto "Reports";
    stop;
}

# To everybody
if address :is "to" "all@foundry.example" {
    fileinto "Notices";
    stop;
}
