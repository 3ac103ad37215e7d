require ["fileinto", "imap4flags"];

# Aldous
if address :is "from" "aldous@harbour.example" {
    fileinto "People/Aldous";
    stop;
}

# Berrin
if address :is "from" "berrin@orchard.example" {
    fileinto "People/Berrin";
    stop;
}

# Calla
if address :is "from" "calla@quarry.example" {
    fileinto "People/Calla";
    stop;
}

# Dorian
if address :is "from" "dorian@library.example" {
    fileinto "People/Dorian";
    stop;
}

# Edda
if address :is "from" "edda@bakery.example" {
    fileinto "People/Edda";
    stop;
}

# Fenno
if address :is "from" "fenno@forge.example" {
    fileinto "People/Fenno";
    stop;
}

# Gisla
if address :is "from" "gisla@dairy.example" {
    fileinto "People/Gisla";
    stop;
}

# Harke
if address :is "from" "harke@market.example" {
    fileinto "People/Harke";
    stop;
}

# Ilva
if address :is "from" "ilva@ferry.example" {
    fileinto "People/Ilva";
    stop;
}

# Jorun
if address :is "from" "jorun@chapel.example" {
    fileinto "People/Jorun";
    stop;
}

# Kester
if address :is "from" "kester@tannery.example" {
    fileinto "People/Kester";
    stop;
}

# Lumi
if address :is "from" "lumi@brewery.example" {
    fileinto "People/Lumi";
    stop;
}

# Marit
if address :is "from" "marit@smithy.example" {
    fileinto "People/Marit";
    stop;
}

# Norrin
if address :is "from" "norrin@sawmill.example" {
    fileinto "People/Norrin";
    stop;
}

# Odile
if address :is "from" "odile@granary.example" {
    fileinto "People/Odile";
    stop;
}

# Perrin
if address :is "from" "perrin@smokehouse.example" {
    fileinto "People/Perrin";
    stop;
}

# Quill
if address :is "from" "quill@kiln.example" {
    fileinto "People/Quill";
    stop;
}

# Ronja
if address :is "from" "ronja@pottery.example" {
    fileinto "People/Ronja";
    stop;
}

# Sorrel
if address :is "from" "sorrel@weavers.example" {
    fileinto "People/Sorrel";
    stop;
}

# Tamsin
if address :is "from" "tamsin@printers.example" {
    fileinto "People/Tamsin";
    stop;
}

# List of the tannery
if header :contains "list-id" "tannery.lists.example" {
    fileinto "Lists/Tannery";
    stop;
}

# List of the brewery
if header :contains "list-id" "brewery.lists.example" {
    fileinto "Lists/Brewery";
    stop;
}

# List of the smithy
if header :contains "list-id" "smithy.lists.example" {
    fileinto "Lists/Smithy";
    stop;
}

# List of the sawmill
if header :contains "list-id" "sawmill.lists.example" {
    fileinto "Lists/Sawmill";
    stop;
}

# List of the granary
if header :contains "list-id" "granary.lists.example" {
    fileinto "Lists/Granary";
    stop;
}

# List of the smokehouse
if header :contains "list-id" "smokehouse.lists.example" {
    fileinto "Lists/Smokehouse";
    stop;
}

# List of the kiln
if header :contains "list-id" "kiln.lists.example" {
    fileinto "Lists/Kiln";
    stop;
}

# List of the pottery
if header :contains "list-id" "pottery.lists.example" {
    fileinto "Lists/Pottery";
    stop;
}

# List of the weavers
if header :contains "list-id" "weavers.lists.example" {
    fileinto "Lists/Weavers";
    stop;
}

# List of the printers
if header :contains "list-id" "printers.lists.example" {
    fileinto "Lists/Printers";
    stop;
}

# About minutes
if header :contains "subject" "minutes" {
    fileinto "Minutes";
    stop;
}

# About agenda
if header :contains "subject" "agenda" {
    fileinto "Agendas";
    stop;
}

# About timetable
if header :contains "subject" "timetable" {
    fileinto "Timetables";
    stop;
}

# About survey
if header :contains "subject" "survey" {
    fileinto "Surveys";
    stop;
}

# About receipt
if header :contains "subject" "receipt" {
    fileinto "Receipts";
    stop;
}

# About warranty
if header :contains "subject" "warranty" {
    fileinto "Warranties";
    stop;
}

# About delivery note
if header :contains "subject" "delivery note" {
    fileinto "Deliveries";
    stop;
}

# About password reset
if header :contains "subject" "password reset" {
    fileinto "Accounts";
    stop;
}

# Whatever can be unsubscribed
if exists "list-unsubscribe" {
    fileinto "Reading";
    stop;
}

# To nobody in particular
if not exists "to" {
    fileinto "Doubtful";
}
