"""The Vary view of the Riff stage."""
