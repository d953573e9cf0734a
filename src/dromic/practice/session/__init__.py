"""Sessions: what is worth practising, for how many minutes, in which order, and care for the hands."""
