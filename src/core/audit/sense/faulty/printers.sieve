require ["fileinto", "imap4flags"];

# Proofs
if header :contains "subject" "proof" {
    fileinto "Proofs";
}

# Proofs by hand
if header :contains "subject" "proof" {
    fileinto "Proofs";
}

# Paper
if header :is "list-id" "paper.example" {
    fileinto "Paper";
    stop;
}

# Paper of the list
if header :is "list-id" ["paper.example"] {
    fileinto "Paper";
    stop;
}

# Ink
if allof (header :contains "subject" "ink", exists "subject") {
    fileinto "Ink";
    stop;
}

# Never
if not anyof (true, exists "x-tag") {
    fileinto "Never";
    stop;
}
