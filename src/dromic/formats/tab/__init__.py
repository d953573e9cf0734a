"""Text tablature as players type it: a page (`page`), its strings, bars, signs and rhythm, and the writer."""
