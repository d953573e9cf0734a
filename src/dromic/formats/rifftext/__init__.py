"""Riff text: our own way to write a riff; `reader` and `writer` are its doors."""
