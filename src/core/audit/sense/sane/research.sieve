require ["fileinto", "imap4flags", "copy", "duplicate"];

# Seen twice
if duplicate {
    discard;
    stop;
}

# Reviews to write
if allof (address :domain :is "from" "journal.example", header :contains "subject" "review") {
    addflag "$Review";
    fileinto "Reviews";
    stop;
}

# Journal
if address :domain :is "from" "journal.example" {
    fileinto "Journal";
    stop;
}

# Students
if address :domain :is "from" "students.uni.example" {
    fileinto "Students";
    stop;
}

# Department
if address :domain :is "from" "uni.example" {
    fileinto "Department";
    stop;
}

# Calls for papers
if header :contains "subject" ["call for papers", "cfp"] {
    fileinto "Calls";
    stop;
}

# Grant
if header :contains "subject" "grant 2231" {
    fileinto :copy "Grant";
}

# Seminar
if header :contains "list-id" "seminar.uni.example" {
    fileinto "Seminar";
    stop;
}
