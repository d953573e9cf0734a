"""The Hands page: sizes, speeds and style options."""
