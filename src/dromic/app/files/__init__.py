"""Opening, pasting, saving and exporting."""
