"""What hands have been asked to do and what not: tables of movements, and drills that fill their gaps."""
