require ["fileinto", "imap4flags", "body"];

# Newsletters
if header :contains "subject" "abbestellen" {
    fileinto "Reading";
    stop;
}

# Blasting
if header :contains "subject" "blasting" {
    addflag "\\Flagged";
    fileinto "Blasting";
    stop;
}

# Blasting at dawn
if header :contains "subject" "blasting at dawn" {
    redirect "phone@pocket.example";
    stop;
}

# Lorries
if header :matches "subject" "lorry?" {
    fileinto "Lorries";
    stop;
}

# Weights
if size :over 3M {
    fileinto "Large";
    stop;
}

# Heavier weights
if size :over 9M {
    fileinto "Very large";
    stop;
}
