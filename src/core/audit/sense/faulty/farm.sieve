require ["fileinto", "copy"];

# Milk board
if address :domain :is "from" "milk.example" {
    fileinto "Milk";
    stop;
}

# Milk prices
if allof (address :domain :is "from" "milk.example", header :contains "subject" "price") {
    fileinto "Prices";
    stop;
}

# Dairy
if address :domain :is "from" "dairy.example" {
    fileinto "Milk";
    stop;
}

# Vet
if address :localpart :is "from" "vet@animals.example" {
    fileinto "Vet";
    stop;
}

# Too large and too small
if allof (size :over 2M, size :under 1M) {
    fileinto "Large";
    stop;
}
