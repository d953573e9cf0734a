"""Reports: plans, sessions, logs, takes and variations in words for a terminal, or as JSON for programs."""
