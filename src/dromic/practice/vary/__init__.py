"""A lick moved on: through keys, degrees, strings, rhythms, orders and chords, and made easier."""
