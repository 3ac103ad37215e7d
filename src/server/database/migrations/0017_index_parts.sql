-- Parts of the index of words are merged sixteen at a time, not four: an import writes them anew half as often.
INSERT INTO message_text (message_text, rank) VALUES ('automerge', 16);
