"""The window: the only room that imports Qt."""
