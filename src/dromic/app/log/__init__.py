"""The Log stage: what was practised, and what came of it."""
