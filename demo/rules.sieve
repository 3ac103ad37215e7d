# Incoming-mail rules of the coordinator of the Hollin Weir Mill Trust.
# Added one at a time since 2018. Nobody has looked at them as a whole.

require ["fileinto", "copy", "imap4flags", "envelope", "body", "date", "relational", "comparator-i;ascii-numeric"];

# Urgent for the coordinator
if allof (header :contains "subject" ["urgent", "dringend", "urgence"], not header :contains "list-id" "hollinweir") {
    addflag "\\Flagged";
}

# Camera restarts
if allof (address :is "from" "camera@cam.hollinweir.example", header :contains "subject" "restarted") {
    fileinto "Weir/Camera";
    stop;
}

# Weir camera
if address :is "from" "camera@cam.hollinweir.example" {
    fileinto "Weir/Camera";
    stop;
}

# River levels
if address :domain :is "from" "riverlevels.example" {
    fileinto "Weir/Levels";
    stop;
}

# Flood warnings
if allof (address :domain :is "from" "riverlevels.example", header :contains "subject" "flood warning") {
    addflag "\\Flagged";
    keep;
    stop;
}

# Camera at night
if allof (address :is "from" "camera@cam.hollinweir.example", header :contains "subject" "night") {
    addflag "$Night";
    fileinto "Weir/Night";
    stop;
}

# Invoices
if header :contains "subject" ["invoice", "facture", "Rechnung"] {
    fileinto "Accounts/Invoices";
    stop;
}

# Calder oak yard
if address :domain :is "from" "calderoak.example" {
    fileinto "Suppliers/Oak";
    stop;
}

# Fell oak
if address :domain :is "from" "felloak.example" {
    fileinto "Suppliers/Oak";
    stop;
}

# Lime from the kiln
if address :is "from" "kiln@stanhopelime.example" {
    fileinto "Suppliers/Lime";
    stop;
}

# Stanhope lime
if address :is "from" ["sales@stanhopelime.example", "kiln@stanhopelime.example"] {
    fileinto "Suppliers/Lime";
    stop;
}

# Ironwork quotes
if header :matches "subject" "*quote*gudgeon*" {
    fileinto "Suppliers/Iron";
}

# Volunteers' list
if header :contains "list-id" "volunteers.hollinweir.example" {
    fileinto "Volunteers";
}

# Committee list
if header :is "list-id" "Committee <committee.hollinweir.example>" {
    fileinto "Committee";
    stop;
}

# Rota changes
if header :contains "subject" "rota" {
    addflag "$Rota";
    fileinto "Volunteers/Rota";
}

# Open day
if allof (header :contains "subject" "open day", not address :is "from" "ann.castle@fellmail.example") {
    fileinto "Photos";
}

# Raffles
if allof (header :contains "subject" "raffle", not address :domain :is "from" "fellmail.example") {
    fileinto "Reading/Bulk";
    stop;
}

# Photos
if header :contains "subject" ["photo", "picture"] {
    fileinto "Photos";
}

# Leases
if allof (header :contains "subject" "lease", not address :is "from" "hallam@consult.dalecouncil.example") {
    fileinto "Planning/Leases";
    stop;
}

# Dale council
if address :domain :contains "from" "dalecouncil.example" {
    fileinto "Planning";
    stop;
}

# Planning decisions
if allof (address :is "from" "planning@dalecouncil.example", header :contains "subject" "decision") {
    addflag "\\Flagged";
    fileinto "Planning/Decisions";
}

# Listed building consent
if header :contains "subject" "listed building" {
    fileinto "Planning/Consent";
    stop;
}

# Grants office
if address :domain :is "from" "heritagefund.example" {
    fileinto "Grants";
}

# Grant reports due
if header :contains "subject" "report due" {
    addflag "\\Flagged";
    fileinto "Grants/Reports";
}

# School visits
if anyof (
    address :domain :matches "from" "*-school.example",
    header :contains "subject" "school visit"
) {
    fileinto "Schools";
    stop;
}

# Bookings from teachers
if header :contains "subject" "booking" {
    fileinto "Schools/Bookings";
    stop;
}

# Shop orders
if address :is "from" "orders@shop.hollinweir.example" {
    fileinto "Shop/Orders";
}

# Order number anywhere
if header :matches "subject" "*order #*" {
    fileinto "Shop";
}

# Card payments
if address :domain :is "from" "paybridge.example" {
    setflag "\\Seen";
    fileinto "Shop/Payments";
    stop;
}

# Refunds
if header :contains "subject" "refund" {
    fileinto "Shop/Refunds";
}

# Returned goods
if header :contains "subject" "returned" {
    fileinto "Shop/Refunds";
}

# Treasurer
if address :is "from" "ines@ledgerlane.example" {
    fileinto "Accounts";
}

# Bank statements
if address :domain :is "from" "fellbank.example" {
    setflag "\\Seen";
    fileinto "Accounts/Bank";
    stop;
}

# Archive scans
if address :is "from" "scans@archivebureau.example" {
    fileinto "Archive/Scans";
    stop;
}

# Large attachments
if size :over 300K {
    fileinto :copy "Archive/Large";
}

# Insurance
if address :domain :is "from" "fellinsure.example" {
    fileinto "Accounts/Insurance";
    stop;
}

# Backups of the office machine
if header :contains "subject" "backup finished" {
    setflag "\\Seen";
    fileinto "Machines";
    stop;
}

# Backups that failed
if header :contains "subject" "backup" {
    addflag "\\Flagged";
    keep;
}

# Mills and rivers newsletter
if address :is "from" "newsletter@millsandrivers.example" {
    fileinto "Reading";
    stop;
}

# Tool offers
if address :domain :is "from" "toolbarn.example" {
    discard;
    stop;
}

# Bulk, the museums aside
if allof (exists "list-unsubscribe", not address :domain :is "from" "museums.example") {
    fileinto "Reading/Bulk";
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

# Anything that can be unsubscribed
if exists "list-unsubscribe" {
    fileinto "Reading/Bulk";
}

# Prizes and lotteries
if header :contains "subject" ["prize", "lottery", "you have won"] {
    discard;
}

# The bank's noise
if allof (header :contains "subject" ["account", "statement"], not address :domain :is "from" "ledgerlane.example") {
    discard;
    stop;
}

# Ann
if header :contains "from" "ann" {
    fileinto "People/Ann";
}

# French mill society
if address :domain :is "from" "moulins.example" {
    fileinto "Abroad";
}
# Abroad, other scripts
elsif header :contains "subject" ["水車", "мельниц", "μύλος"] {
    fileinto "Abroad/Other";
}
# Guest mail without a subject
elsif allof (not exists "subject", not address :domain :is "from" "hollinweir.example") {
    addflag "$NoSubject";
}

# Copies for the trust secretary
if allof (address :contains ["to", "cc"] "board@hollinweir.example", not header :contains "subject" "private") {
    redirect :copy "secretary@hollinweir.example";
}

# Website form
if allof (envelope :domain "from" "web.hollinweir.example", header :contains "x-form" "contact") {
    addflag "$Form";
}

# Out of office
if header :contains "subject" ["out of office", "automatic reply", "abwesend"] {
    setflag "\\Seen";
    fileinto "Replies";
    stop;
}

# Bounces
if envelope :is "from" "" {
    fileinto "Replies/Bounces";
    stop;
}

# Directly to me
if address :is ["to", "cc"] ["coordinator@hollinweir.example", "maren.holt@hollinweir.example"] {
    addflag "$Direct";
}

# Old wheel committee
if header :contains "list-id" "wheel.hollinweir.example" {
    fileinto "Committee/Wheel";
    stop;
}

# Museums
if anyof (address :domain :is "from" "museums.example", address :is "from" "news@museums.example") {
    addflag "$Museum";
}

# Storms
if header :contains "subject" ["storm", "storm warning"] {
    addflag "\\Flagged";
}

# Tobias, not the forge
if allof (address :is "from" "tobias@calderoak.example", not address :domain :is "from" "fellforge.example") {
    addflag "$Tobias";
}

# Short notes
if allof (address :is "from" "joanna@dalewalks.example", size :under 2K, not size :over 1M) {
    addflag "$Short";
}

# Reports in French
if allof (address :domain :is "from" "heritagefund.example", address :domain :is "from" "moulins.example") {
    addflag "$French";
}

# Neither large nor small
if allof (size :over 5M, size :under 1M) {
    fileinto "Archive/Large";
}

# Nothing to read in the subject
if allof (exists "subject", not header :contains "subject" ["a", "b", "c", "d", "e", "f", "g", "h", "i", "j", "k", "l", "m",
    "n", "o", "p", "q", "r", "s", "t", "u", "v", "w", "x", "y", "z", "0", "1", "2", "3", "4", "5", "6", "7", "8", "9"]) {
    addflag "$Empty";
}

# Urgent, to my telephone
if allof (address :is "to" "maren.holt@hollinweir.example", header :contains "subject" "urgent") {
    redirect "maren@pocketmail.example";
}

# Private, to my own name
if header :contains "subject" "private" {
    redirect :copy "maren.holt@hollinweir.example";
}

# Ferry times
if header :contains "subject" "ferry" {
    fileinto "Reading/Ferry";
}

# Suspected by the server
if header :contains "x-spam-statuss" "Yes" {
    addflag "$Suspect";
}

# Doubtful by score
if header :value "ge" :comparator "i;ascii-numeric" "x-spam-score" "5" {
    addflag "$Doubtful";
    stop;
}

# Very doubtful by score
if header :value "ge" :comparator "i;ascii-numeric" "x-spam-score" "10" {
    fileinto "Reading/Bulk";
    stop;
}

# Works on the sluice, until 2020
if allof (currentdate :value "lt" "date" "2020-01-01", header :contains "subject" "sluice") {
    addflag "$Works";
}

# The wheel shaft
if header :matches "subject" "the wheel shaft" {
    addflag "$Shaft";
}

# Any order
if header :contains "subject" "*order*" {
    addflag "$Order";
}

# The lade
if header :contains "subject" ["Lade", "lade"] {
    addflag "$Lade";
}

# The Okafors
if address :domain :is "from" "@okafor.example" {
    addflag "$Okafor";
}

# Ruth
if address :is "from" "Ruth Okafor" {
    addflag "$Ruth";
}

# Last days of a sale
if header :contains "subject" "last days" {
    fileinto "Reading/Bulk";
    discard;
}

# Seen to already
if hasflag "$SeenTo" {
    fileinto "Kept";
}

# Swallows, to the wardens
if header :contains "subject" "swallows" {
    redirect :copy "wardens@millwardens.example";
}

# Mail that says how to leave
if body :contains "unsubscribe" {
    fileinto "Reading/Bulk";
}

# Unsubscribing in the subject
if header :contains "subject" ["unsubscribe", "abbestellen"] {
    fileinto "Reading/Bulk";
}
