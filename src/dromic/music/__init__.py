"""Pitch, rhythm and the riff itself: what is written, before anyone plays it."""
