"""The Compare stage: schools and best plans side by side."""
