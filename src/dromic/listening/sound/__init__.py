"""Making sound: the plan played by plucked strings of our own, clicks, drone, and a simulated player."""
