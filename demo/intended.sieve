# Incoming-mail rules of the coordinator of the Hollin Weir Mill Trust.
# What they are meant to do; rules.sieve is made from these by the faults listed in faults.json.

require ["fileinto", "copy", "imap4flags", "envelope", "body", "date", "relational", "comparator-i;ascii-numeric"];

# Urgent for the coordinator
if allof (header :contains "subject" ["urgent", "dringend", "urgence"], not header :contains "list-id" "hollinweir") {
    addflag "\\Flagged";
}

# Camera at night
if allof (address :is "from" "camera@cam.hollinweir.example", header :contains "subject" "night") {
    addflag "$Night";
    fileinto "Weir/Night";
    stop;
}

# Weir camera
if address :is "from" "camera@cam.hollinweir.example" {
    fileinto "Weir/Camera";
    stop;
}

# Flood warnings
if allof (address :domain :is "from" "riverlevels.example", header :contains "subject" "flood warning") {
    addflag "\\Flagged";
    keep;
    stop;
}

# River levels
if address :domain :is "from" "riverlevels.example" {
    fileinto "Weir/Levels";
    stop;
}

# Calder oak yard
if address :domain :is "from" ["calderoak.example", "felloak.example"] {
    fileinto "Suppliers/Oak";
    stop;
}

# Stanhope lime
if address :is "from" ["sales@stanhopelime.example", "kiln@stanhopelime.example"] {
    fileinto "Suppliers/Lime";
    stop;
}

# French mill society
if address :domain :is "from" "moulins.example" {
    fileinto "Abroad";
    stop;
}
# Abroad, other scripts
elsif header :contains "subject" ["水車", "мельниц", "μύλος"] {
    fileinto "Abroad/Other";
}
# Guest mail without a subject
elsif allof (not exists "subject", not address :domain :is "from" "hollinweir.example") {
    addflag "$NoSubject";
}

# Invoices
if allof (header :contains "subject" ["invoice", "facture", "Rechnung"], not address :is "from" "ines@ledgerlane.example") {
    fileinto "Accounts/Invoices";
    stop;
}

# Ironwork quotes
if header :matches "subject" "*quote*gudgeon*" {
    fileinto "Suppliers/Iron";
}

# Volunteers' list
if header :contains "list-id" "volunteers.hollinweir.example" {
    fileinto "Volunteers";
    stop;
}

# Committee list
if header :is "list-id" "Committee <committee.hollinweir.example>" {
    fileinto "Committee";
    stop;
}

# Archive scans
if address :is "from" "scans@archivebureau.example" {
    fileinto "Archive/Scans";
    stop;
}

# Rota changes
if header :matches "subject" "*rota *" {
    addflag "$Rota";
    fileinto "Volunteers/Rota";
}

# Raffles
if allof (header :contains "subject" "raffle", not address :is "from" "ann.castle@fellmail.example") {
    fileinto "Reading/Bulk";
    stop;
}

# Photos
if allof (header :contains "subject" ["photo", "picture"], not address :is "from" "ann.castle@fellmail.example") {
    fileinto "Photos";
}

# Dale council
if address :domain :contains "from" "dalecouncil.example" {
    fileinto "Planning";
    stop;
}

# Leases
if allof (header :contains "subject" "lease", not address :domain :contains "from" "dalecouncil.example") {
    fileinto "Planning/Leases";
    stop;
}

# Listed building consent
if header :contains "subject" "listed building" {
    fileinto "Planning/Consent";
    stop;
}

# Planning decisions
if allof (address :is "from" "planning@dalecouncil.example", header :contains "subject" "decision") {
    addflag "\\Flagged";
    fileinto "Planning/Decisions";
    stop;
}

# Grant reports due
if anyof (header :contains "subject" "report due", address :is "from" "reporting@heritagefund.example") {
    addflag "\\Flagged";
    fileinto "Grants/Reports";
    stop;
}

# Grants office
if address :domain :is "from" "heritagefund.example" {
    fileinto "Grants";
    stop;
}

# Saint Bee
if address :is "from" "office@stbees-school.example" {
    fileinto "Schools/Saint Bee";
    stop;
}

# Bookings from teachers
if header :contains "subject" "booking" {
    fileinto "Schools/Bookings";
    stop;
}

# School visits
if allof (
    anyof (
        address :domain :matches "from" "*-school.example",
        header :contains "subject" "school visit"
    ),
    not address :domain :is "from" "web.hollinweir.example"
) {
    fileinto "Schools";
    stop;
}

# Card payments
if address :domain :is "from" "paybridge.example" {
    setflag "\\Seen";
    fileinto "Shop/Payments";
    stop;
}

# Shop orders
if address :is "from" "orders@shop.hollinweir.example" {
    fileinto "Shop/Orders";
    stop;
}

# Order number anywhere
if header :matches "subject" "*order #*" {
    fileinto "Shop";
}

# Bank statements
if address :domain :is "from" "fellbank.example" {
    setflag "\\Seen";
    fileinto "Accounts/Bank";
    stop;
}

# Refunds
if header :contains "subject" ["refund", "returned"] {
    fileinto "Shop/Refunds";
}

# Treasurer
if address :is "from" "ines@ledgerlane.example" {
    fileinto "Accounts";
}

# Large attachments
if size :over 300K {
    fileinto :copy "Archive/Large";
}

# Insurance
if address :domain :is "from" "fellinsure.example" {
    fileinto "Accounts/Claims";
    stop;
}

# Backups that failed
if header :contains "subject" "backup failed" {
    addflag "\\Flagged";
    keep;
    stop;
}

# Backups of the office machine
if header :contains "subject" "backup finished" {
    setflag "\\Seen";
    fileinto "Machines";
    stop;
}

# Mills and rivers newsletter
if address :is "from" "newsletter@millsandrivers.example" {
    fileinto "Reading";
    stop;
}

# Tool offers
if address :domain :is "from" "toolbarn.example" {
    fileinto "Reading/Bulk";
    stop;
}

# Bulk, the museums aside
if exists "list-unsubscribe" {
    fileinto "Reading/Bulk";
    stop;
}

# Newsletters
if allof (header :contains "subject" "newsletter", not address :domain :is "from" "dalewalks.example") {
    fileinto "Reading";
    stop;
}

# Walks
if address :domain :is "from" "dalewalks.example" {
    fileinto "Reading/Walks";
}

# Prizes and lotteries
if allof (header :contains "subject" ["prize", "lottery", "you have won"], not address :domain :is "from" "muehlen.example") {
    discard;
}

# The bank's noise
if allof (header :contains "subject" ["account", "statement"], address :domain :is "from" "fellbank.example") {
    discard;
    stop;
}

# Ann
if address :is "from" "ann.castle@fellmail.example" {
    fileinto "People/Ann";
}

# Copies for the trust secretary
if allof (address :contains ["to", "cc"] "board@hollinweir.example", not header :contains "subject" "private") {
    redirect :copy "secretary@hollinweir.example";
}

# Website form
if allof (envelope :domain "from" "web.hollinweir.example", header :contains "x-form" "contact") {
    addflag "$Form";
}

# Bounces
if envelope :is "from" "" {
    fileinto "Replies/Bounces";
    stop;
}

# Out of office
if header :contains "subject" ["out of office", "automatic reply", "abwesend"] {
    setflag "\\Seen";
    fileinto "Replies";
    stop;
}

# Directly to me
if address :is ["to", "cc"] ["coordinator@hollinweir.example", "maren.holt@hollinweir.example"] {
    addflag "$Direct";
}

# Museums
if address :domain :is "from" "museums.example" {
    addflag "$Museum";
}

# Storms
if header :contains "subject" "storm" {
    addflag "\\Flagged";
    fileinto "Weir/Levels";
}

# Tobias, not the forge
if address :is "from" "tobias@calderoak.example" {
    addflag "$Tobias";
}

# Short notes
if allof (address :is "from" "joanna@dalewalks.example", size :under 2K) {
    addflag "$Short";
}

# Nothing to read in the subject
if allof (exists "subject", not header :contains "subject" ["a", "b", "c", "d", "e", "f", "g", "h", "i", "j", "k", "l", "m",
    "n", "o", "p", "q", "r", "s", "t", "u", "v", "w", "x", "y", "z", "0", "1", "2", "3", "4", "5", "6", "7", "8", "9"]) {
    addflag "$Empty";
}

# Urgent, to my telephone
if allof (address :is "to" "maren.holt@hollinweir.example", header :contains "subject" "urgent") {
    redirect :copy "maren@pocketmail.example";
}

# Private, to my own name
if header :contains "subject" "private" {
    redirect :copy "maren.holt@hollinweir.example";
}

# Suspected by the server
if header :contains "x-spam-status" "Yes" {
    addflag "$Suspect";
}

# Doubtful by score
if header :value "ge" :comparator "i;ascii-numeric" "x-spam-score" "5" {
    addflag "$Doubtful";
    stop;
}

# The wheel shaft
if header :matches "subject" "*the wheel shaft*" {
    addflag "$Shaft";
}

# Any order
if header :contains "subject" "order" {
    addflag "$Order";
}

# The lade
if header :contains "subject" "lade" {
    addflag "$Lade";
}

# The Okafors
if address :domain :is "from" "okafor.example" {
    addflag "$Okafor";
}

# Ruth
if address :is "from" "ruth@okafor.example" {
    addflag "$Ruth";
}

# Last days of a sale
if header :contains "subject" "last days" {
    fileinto "Reading/Bulk";
}

# Swallows, to the wardens
if header :contains "subject" "swallows" {
    redirect :copy "wardens@millwardens.example";
}

# Mail that says how to leave
if allof (body :contains "unsubscribe", exists "list-unsubscribe") {
    fileinto "Reading/Bulk";
}

# Unsubscribing in the subject
if header :contains "subject" ["unsubscribe", "abbestellen"] {
    fileinto "Reading/Bulk";
}
