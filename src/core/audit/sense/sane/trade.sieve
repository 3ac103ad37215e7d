require ["fileinto", "imap4flags", "copy", "relational", "comparator-i;ascii-numeric", "envelope", "subaddress"];

# Very bad scores
if header :value "ge" :comparator "i;ascii-numeric" "x-score" "20" {
    discard;
    stop;
}

# Bad scores
if header :value "ge" :comparator "i;ascii-numeric" "x-score" "8" {
    fileinto "Junk";
    stop;
}

# Urgent from the harbour
if allof (address :domain :is "from" "harbour.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The harbour
if address :domain :is "from" "harbour.example" {
    fileinto "Trade/Harbour";
    stop;
}

# Urgent from the orchard
if allof (address :domain :is "from" "orchard.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The orchard
if address :domain :is "from" "orchard.example" {
    fileinto "Trade/Orchard";
    stop;
}

# Urgent from the quarry
if allof (address :domain :is "from" "quarry.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The quarry
if address :domain :is "from" "quarry.example" {
    fileinto "Trade/Quarry";
    stop;
}

# Urgent from the library
if allof (address :domain :is "from" "library.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The library
if address :domain :is "from" "library.example" {
    fileinto "Trade/Library";
    stop;
}

# Urgent from the bakery
if allof (address :domain :is "from" "bakery.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The bakery
if address :domain :is "from" "bakery.example" {
    fileinto "Trade/Bakery";
    stop;
}

# Urgent from the forge
if allof (address :domain :is "from" "forge.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The forge
if address :domain :is "from" "forge.example" {
    fileinto "Trade/Forge";
    stop;
}

# Urgent from the dairy
if allof (address :domain :is "from" "dairy.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The dairy
if address :domain :is "from" "dairy.example" {
    fileinto "Trade/Dairy";
    stop;
}

# Urgent from the market
if allof (address :domain :is "from" "market.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The market
if address :domain :is "from" "market.example" {
    fileinto "Trade/Market";
    stop;
}

# Urgent from the ferry
if allof (address :domain :is "from" "ferry.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The ferry
if address :domain :is "from" "ferry.example" {
    fileinto "Trade/Ferry";
    stop;
}

# Urgent from the chapel
if allof (address :domain :is "from" "chapel.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The chapel
if address :domain :is "from" "chapel.example" {
    fileinto "Trade/Chapel";
    stop;
}

# Urgent from the tannery
if allof (address :domain :is "from" "tannery.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The tannery
if address :domain :is "from" "tannery.example" {
    fileinto "Trade/Tannery";
    stop;
}

# Urgent from the brewery
if allof (address :domain :is "from" "brewery.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The brewery
if address :domain :is "from" "brewery.example" {
    fileinto "Trade/Brewery";
    stop;
}

# Urgent from the smithy
if allof (address :domain :is "from" "smithy.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The smithy
if address :domain :is "from" "smithy.example" {
    fileinto "Trade/Smithy";
    stop;
}

# Urgent from the sawmill
if allof (address :domain :is "from" "sawmill.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The sawmill
if address :domain :is "from" "sawmill.example" {
    fileinto "Trade/Sawmill";
    stop;
}

# Urgent from the granary
if allof (address :domain :is "from" "granary.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The granary
if address :domain :is "from" "granary.example" {
    fileinto "Trade/Granary";
    stop;
}

# Urgent from the smokehouse
if allof (address :domain :is "from" "smokehouse.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The smokehouse
if address :domain :is "from" "smokehouse.example" {
    fileinto "Trade/Smokehouse";
    stop;
}

# Urgent from the kiln
if allof (address :domain :is "from" "kiln.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The kiln
if address :domain :is "from" "kiln.example" {
    fileinto "Trade/Kiln";
    stop;
}

# Urgent from the pottery
if allof (address :domain :is "from" "pottery.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The pottery
if address :domain :is "from" "pottery.example" {
    fileinto "Trade/Pottery";
    stop;
}

# Urgent from the weavers
if allof (address :domain :is "from" "weavers.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The weavers
if address :domain :is "from" "weavers.example" {
    fileinto "Trade/Weavers";
    stop;
}

# Urgent from the printers
if allof (address :domain :is "from" "printers.example", header :contains "subject" "urgent") {
    addflag "\\Flagged";
    keep;
    stop;
}

# The printers
if address :domain :is "from" "printers.example" {
    fileinto "Trade/Printers";
    stop;
}

# Detail aldous
if envelope :detail :is "to" "aldous" {
    fileinto "Details/Aldous";
    stop;
}

# Detail berrin
if envelope :detail :is "to" "berrin" {
    fileinto "Details/Berrin";
    stop;
}

# Detail calla
if envelope :detail :is "to" "calla" {
    fileinto "Details/Calla";
    stop;
}

# Detail dorian
if envelope :detail :is "to" "dorian" {
    fileinto "Details/Dorian";
    stop;
}

# Detail edda
if envelope :detail :is "to" "edda" {
    fileinto "Details/Edda";
    stop;
}

# Detail fenno
if envelope :detail :is "to" "fenno" {
    fileinto "Details/Fenno";
    stop;
}

# Detail gisla
if envelope :detail :is "to" "gisla" {
    fileinto "Details/Gisla";
    stop;
}

# Detail harke
if envelope :detail :is "to" "harke" {
    fileinto "Details/Harke";
    stop;
}

# Detail ilva
if envelope :detail :is "to" "ilva" {
    fileinto "Details/Ilva";
    stop;
}

# Detail jorun
if envelope :detail :is "to" "jorun" {
    fileinto "Details/Jorun";
    stop;
}

# Detail kester
if envelope :detail :is "to" "kester" {
    fileinto "Details/Kester";
    stop;
}

# Detail lumi
if envelope :detail :is "to" "lumi" {
    fileinto "Details/Lumi";
    stop;
}

# Tender
if header :contains "subject" "tender" {
    fileinto :copy "Topics/Tender";
}

# Excursion
if header :contains "subject" "excursion" {
    fileinto :copy "Topics/Excursion";
}

# Concert
if header :contains "subject" "concert" {
    fileinto :copy "Topics/Concert";
}

# Harvest
if header :contains "subject" "harvest" {
    fileinto :copy "Topics/Harvest";
}

# Insurance
if header :contains "subject" "insurance" {
    fileinto :copy "Topics/Insurance";
}
