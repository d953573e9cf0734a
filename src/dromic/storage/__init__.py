"""The one door to the disk: files are read within bounds, and written whole or not at all."""
