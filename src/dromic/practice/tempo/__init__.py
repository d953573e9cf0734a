"""Tempi: ladders, climbing by what was clean, and what minutes of practice raise."""
