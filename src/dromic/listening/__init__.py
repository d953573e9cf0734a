"""Sound: the plan played by a plucked-string voice of our own."""
