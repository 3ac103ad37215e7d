require ["envelope", "fileinto", "subaddress", "imap4flags"];

# Shops
if envelope :detail :is "to" ["shop", "orders", "buy"] {
    fileinto "Shopping";
    stop;
}

# Bank
if envelope :detail :is "to" "bank" {
    addflag "\\Flagged";
    fileinto "Bank";
    stop;
}

# Forums
if envelope :detail :matches "to" "forum*" {
    fileinto "Forums";
    stop;
}

# School of the children
if envelope :detail :is "to" "school" {
    fileinto "School";
    stop;
}

# An address that was sold
if envelope :detail :is "to" "raffle2019" {
    discard;
    stop;
}

# Any other detail
if envelope :detail :matches "to" "?*" {
    fileinto "Details";
}
