"""Harnet: effective resolution of placed pictures, from shelf to press."""
