"""A level made ready to run: compiled rules, behaviours, tables by kind, and what wakes and depends on what."""
