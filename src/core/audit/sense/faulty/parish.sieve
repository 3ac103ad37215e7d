require ["fileinto", "imap4flags", "copy"];

# Bells, but not the ringers' list
if allof (header :contains "subject" "bell", not header :contains "list-id" "ringers.parish.example") {
    fileinto "Bells";
    stop;
}

# Ringers' list
if allof (header :contains "list-id" "ringers.parish.example", not header :contains "subject" "practice") {
    fileinto "Ringers";
    stop;
}

# Practice of the ringers
if allof (header :contains "list-id" "ringers.parish.example", header :contains "subject" "practice night") {
    fileinto "Practice";
    stop;
}

# Hymns
if header :contains "subject" ["hymn", "Hymn", "HYMN"] {
    fileinto "Hymns";
    stop;
}

# Vicar
if address :all :is "from" "vicar" {
    fileinto "Vicar";
    stop;
}

# Verger or sexton
if allof (address :is "from" "verger@parish.example", address :is "from" "sexton@parish.example") {
    addflag "\\Flagged";
}

# Organ
if header :matches "subject" ["organ", "organist"] {
    fileinto "Organ";
    stop;
}
