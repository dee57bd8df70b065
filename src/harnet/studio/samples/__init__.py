"""Samples to try Harnet with, thrown away at any time."""
