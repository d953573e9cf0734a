"""ABC tune books, by the standard 2.1."""
