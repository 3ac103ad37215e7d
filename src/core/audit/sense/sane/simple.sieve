require "fileinto";

# Bank
if address :domain :is "from" "bank.example" {
    fileinto "Bank";
}

# Power
if address :domain :is "from" "gridpower.example" {
    fileinto "Bills";
}

# Landlord
if address :is "from" "owner@house.example" {
    fileinto "House";
}

# Newsletter of the bakery
if address :is "from" "news@bakery.example" {
    fileinto "Reading";
}

# Everything else stays
keep;
