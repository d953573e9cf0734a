"""What readers of all kinds of file share: what they make (`raw`), how it becomes a riff (`assembly`), bounds."""
