"""The walk through a PDF's content, and what it meets there."""
