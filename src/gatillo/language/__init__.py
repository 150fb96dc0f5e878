"""Between text and lines: reading a typed line, a line's sentence, what may stand in a slot, renaming."""
