"""Improved copies of a PDF: originals found, images replaced, the copy proven."""
