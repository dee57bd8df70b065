"""Placements of a PDF, writing one, and reading back what was written."""
