"""Placing pictures and laying out pages."""
