"""Both hands in motion: the plan played stroke by stroke, as slowly as somebody wants to see it."""
