"""The Material view of the Practice stage."""
