"""Formats, one module each; `dromic.formats.files` is the door."""
