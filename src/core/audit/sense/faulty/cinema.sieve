require ["fileinto", "imap4flags"];

# Everything from distributors
if address :domain :matches "from" "*.films.example" {
    fileinto "Films";
    stop;
}

# Trailers
if allof (address :domain :is "from" "trailers.films.example", header :contains "subject" "trailer") {
    fileinto "Trailers";
    stop;
}

# Keys for films
if address :is "from" "keys@vault.films.example" {
    addflag "\\Flagged";
    keep;
    stop;
}

# Seats
if header :contains "subject" "seat* " {
    addflag "$Seat";
}

# Popcorn
if allof (address :domain :is "from" "popcorn.example", not address :domain :is "from" "popcorn.example") {
    fileinto "Popcorn";
    stop;
}
