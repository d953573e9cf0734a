"""Practice: a range of a plan taken out as a drill, and the tempo ladder it is climbed by."""
