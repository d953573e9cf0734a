"""MIDI files; `quantise` makes written times of played ones."""
