"""Checking documents made elsewhere."""
