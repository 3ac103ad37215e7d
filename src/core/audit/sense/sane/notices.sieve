require ["fileinto", "enotify", "variables"];

# Sluice
if allof (address :is "from" "gauge@river.example", header :contains "subject" "ALARM") {
    notify :message "The river is high" "mailto:phone@pocket.example";
    keep;
    stop;
}

# Gauge
if address :is "from" "gauge@river.example" {
    fileinto "Gauge";
    stop;
}

# Doors
if address :is "from" "doors@hall.example" {
    fileinto "Doors";
    stop;
}

# Heating
if address :is "from" "heating@hall.example" {
    fileinto "Heating";
    stop;
}

# Bookings of the hall
if header :contains "subject" ["booking request", "cancel booking"] {
    fileinto "Bookings";
    stop;
}
