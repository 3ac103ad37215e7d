require ["fileinto"];

# The anvil
if address :domain :is "from" "anvil.example" {
    fileinto "Parts/anvil";
    stop;
}

# The anvil, bills
if allof (address :domain :is "from" "anvil.example", header :contains "subject" "bill") {
    fileinto "Bills";
    stop;
}

# The bellows
if address :domain :is "from" "bellows.example" {
    fileinto "Parts/bellows";
    stop;
}

# The bellows, bills
if allof (address :domain :is "from" "bellows.example", header :contains "subject" "bill") {
    fileinto "Bills";
    stop;
}

# The chisel
if address :domain :is "from" "chisel.example" {
    fileinto "Parts/chisel";
    stop;
}

# The chisel, bills
if allof (address :domain :is "from" "chisel.example", header :contains "subject" "bill") {
    fileinto "Bills";
    stop;
}

# The dowel
if address :domain :is "from" "dowel.example" {
    fileinto "Parts/dowel";
    stop;
}

# The dowel, bills
if allof (address :domain :is "from" "dowel.example", header :contains "subject" "bill") {
    fileinto "Bills";
    stop;
}

# The easel
if address :domain :is "from" "easel.example" {
    fileinto "Parts/easel";
    stop;
}

# The easel, bills
if allof (address :domain :is "from" "easel.example", header :contains "subject" "bill") {
    fileinto "Bills";
    stop;
}

# The flange
if address :domain :is "from" "flange.example" {
    fileinto "Parts/flange";
    stop;
}

# The flange, bills
if allof (address :domain :is "from" "flange.example", header :contains "subject" "bill") {
    fileinto "Bills";
    stop;
}

# The gasket
if address :domain :is "from" "gasket.example" {
    fileinto "Parts/gasket";
    stop;
}

# The hinge
if address :domain :is "from" "hinge.example" {
    fileinto "Parts/hinge";
    stop;
}

# Catalogues
if header :contains "subject" ["catalogue", "new catalogue"] {
    fileinto "Catalogues";
    stop;
}

# Screws
if header :contains "subject" "screw*" {
    fileinto "Screws";
    stop;
}

# Nails
if address :domain :is "from" "@nails.example" {
    fileinto "Nails";
    stop;
}

# Out of stock
if allof (header :contains "subject" "out of stock", not header :contains "subject" "stock") {
    fileinto "Stock";
    stop;
}
