"""The movement chart: both hands on one time axis."""
