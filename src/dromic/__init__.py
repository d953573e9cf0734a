"""Dromic plans pick strokes together with fret positions and fingers, and says why."""

__version__ = "0.1.0"
