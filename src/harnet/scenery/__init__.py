"""Invented views, drawn by code from fixed seeds: what the demo and the stand-ins show."""
