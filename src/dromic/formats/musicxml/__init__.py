"""MusicXML 4.0: `tree` is the door for bytes, the rest reads and writes what is in them."""
