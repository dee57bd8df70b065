"""Work in the background, and what it leaves behind."""
