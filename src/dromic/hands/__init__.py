"""Both hands: how long a movement takes, how comfortable it is, and where they get in each other's way."""
