"""The Riff stage: a riff entered on the board or as text."""
