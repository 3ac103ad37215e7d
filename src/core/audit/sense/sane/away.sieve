require ["vacation", "fileinto", "date", "relational"];

# Lists are not answered
if anyof (exists "list-id", header :is "precedence" ["bulk", "list", "junk"], header :contains "auto-submitted" "auto") {
    fileinto "Lists";
    stop;
}

# Bills
if address :domain :is "from" ["waterboard.example", "gridpower.example"] {
    fileinto "Bills";
    stop;
}

# Family at once
if address :is "from" ["mum@family.example", "dad@family.example"] {
    keep;
    stop;
}

# Away in August
if allof (currentdate :value "ge" "date" "2027-08-01", currentdate :value "le" "date" "2027-08-21") {
    vacation :days 3 :subject "Away until 21 August" "I am away and answer when I am back.";
}

# Out of office hours
if anyof (currentdate :is "weekday" ["0", "6"], currentdate :value "lt" "hour" "08", currentdate :value "ge" "hour" "18") {
    vacation :days 1 :handle "hours" "I read mail on workdays.";
}
