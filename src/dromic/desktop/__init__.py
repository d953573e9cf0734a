"""What a desktop needs to know of the program: entry, icon, kinds of files, manual page, completions."""
