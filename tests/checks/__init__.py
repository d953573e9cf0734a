"""Checks of the main job against sources outside the project, each named beside the check."""
