require ["fileinto", "copy", "imap4flags"];

# Alarms to the telephone
if header :contains "subject" "[alarm]" {
    redirect :copy "phone@pocket.example";
}

# Minutes to the secretary
if allof (address :domain :is "from" "board.example", header :contains "subject" "minutes") {
    redirect :copy "secretary@board.example";
    fileinto "Board/Minutes";
    stop;
}

# Board
if address :domain :is "from" "board.example" {
    fileinto "Board";
    stop;
}

# Press
if address :is "to" "press@mill.example" {
    redirect :copy "writer@press.example";
    fileinto "Press";
    stop;
}

# Jobs
if header :contains "subject" ["application", "vacancy"] {
    fileinto "Jobs";
    stop;
}
