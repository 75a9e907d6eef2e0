"""The kinds of parts, one short file each: what it is made of, what it puts between its terminals, how it is asked
for."""
