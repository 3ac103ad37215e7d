require ["fileinto", "comparator-i;octet", "imap4flags"];

# Rechnungen
if header :contains "subject" ["Rechnung", "Gutschrift", "Mahnung"] {
    fileinto "Rechnungen";
    stop;
}

# Facturas
if header :contains "subject" ["factura", "recibo"] {
    fileinto "Facturas";
    stop;
}

# Японские письма
if header :contains "subject" ["水車", "請求書"] {
    fileinto "日本";
    stop;
}

# Mill in Poland
if address :domain :matches "from" "*.mlyn.example" {
    fileinto "Młyn";
    stop;
}

# Tickets in capitals
if header :comparator "i;octet" :contains "subject" "URGENT" {
    addflag "\\Flagged";
}

# Vacation answers
if header :contains "subject" ["Abwesend", "Automatische Antwort", "Out of office"] {
    fileinto "Abwesend";
    stop;
}
