require ["fileinto", "imap4flags"];

# Nothing in the subject
if allof (exists "subject", not header :contains "subject" ["a", "b", "c", "d", "e", "f", "g", "h", "i", "j", "k", "l", "m", "n", "o", "p", "q", "r", "s", "t", "u", "v", "w", "x", "y", "z", "0", "1", "2", "3", "4", "5", "6", "7", "8", "9"]) {
    addflag "$Empty";
}

# Crew
if address :is "from" "crew@ferry.example" {
    fileinto "Crew";
    stop;
}

# Crew and deck
if address :is "from" ["crew@ferry.example", "deck@ferry.example"] {
    fileinto "Crew";
    stop;
}

# Timetable changes
if allof (address :is "from" "crew@ferry.example", header :contains "subject" "timetable") {
    addflag "\\Flagged";
}

# Passengers
if address :domain :contains "from" "passengers.example*" {
    fileinto "Passengers";
    stop;
}
