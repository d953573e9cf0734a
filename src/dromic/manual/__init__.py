"""The manual: one page for each task, shown in the program and read in the repository."""
