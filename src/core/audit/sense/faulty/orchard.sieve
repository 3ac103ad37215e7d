require ["fileinto", "relational", "comparator-i;ascii-numeric"];

# Perhaps unwanted
if header :value "ge" :comparator "i;ascii-numeric" "x-spam-score" "5" {
    fileinto "Doubtful";
    stop;
}

# Surely unwanted
if header :value "ge" :comparator "i;ascii-numeric" "x-spam-score" "12" {
    discard;
    stop;
}

# Cider press
if address :domain :is "from" "sales@ciderpress.example" {
    fileinto "Suppliers";
    stop;
}

# Pickers
if header :contains "subject" "picker" {
    fileinto "Pickers";
    stop;
}

# Apple pickers
if header :contains "subject" "apple picker" {
    fileinto "Pickers";
    stop;
}

# Nobody at all
if size :over 0 {
    keep;
}
