"""Passages: a range of a plan as a drill, and every way of taking it apart."""
