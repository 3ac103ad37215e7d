require ["fileinto", "imap4flags", "relational", "comparator-i;ascii-numeric"];

# Class 4
if header :contains "subject" ["class 4", "class 4b"] {
    fileinto "Class 4";
    stop;
}

# Absent
if header :contains "subject" "absent" {
    addflag "$Absent";
}

# Absent again
if header :contains "subject" "absent" {
    addflag "$Absent";
}

# Many recipients
if allof (address :count "ge" :comparator "i;ascii-numeric" "to" "20", address :count "lt" :comparator "i;ascii-numeric" "to" "5") {
    fileinto "Many";
    stop;
}

# Canteen
if address :all :contains "from" "<canteen@school.example>" {
    fileinto "Canteen";
    stop;
}
