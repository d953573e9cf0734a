"""Pages about the program, and what writes them."""
