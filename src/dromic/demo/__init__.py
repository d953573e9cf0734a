"""A made-up scenario: the riffs that a quartet of our own plays, all written for this program."""
