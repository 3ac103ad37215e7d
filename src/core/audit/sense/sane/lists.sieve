require ["fileinto", "mailbox"];

# Kernel of the choir
if header :contains "list-id" "choir.singers.example" {
    fileinto :create "Lists/Choir";
    stop;
}

# Beekeepers
if header :contains "list-id" "bees.hive.example" {
    fileinto :create "Lists/Bees";
    stop;
}

# Beekeepers, announcements
if header :contains "list-id" "announce.hive.example" {
    fileinto :create "Lists/Bees/Announce";
    stop;
}

# Allotments
if header :contains "list-id" "allotments.town.example" {
    fileinto :create "Lists/Allotments";
    stop;
}

# Parish council
if header :contains "list-id" "council.parish.example" {
    fileinto :create "Lists/Council";
    stop;
}

# Old list without an identifier
if anyof (address :is ["to", "cc"] "rowers@club.example", header :contains "subject" "[rowers]") {
    fileinto :create "Lists/Rowers";
    stop;
}

# Every other list
if exists ["list-id", "list-unsubscribe"] {
    fileinto :create "Lists/Other";
    stop;
}
