"""Figures and where things lie: units, geometry, density, verdict, and how they are written."""
