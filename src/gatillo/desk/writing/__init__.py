"""Writing sentences: typeset words, slots edited in place, lines that are typed and read."""
