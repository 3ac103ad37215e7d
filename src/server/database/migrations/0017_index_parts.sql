-- Parts of the index of words are merged eight at a time, not four: an import writes them anew less often.
INSERT INTO message_text (message_text, rank) VALUES ('automerge', 8);
