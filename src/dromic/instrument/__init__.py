"""Instruments: tunings, and where strings and frets lie in millimetres."""
