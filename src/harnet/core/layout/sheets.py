"""Sheets that everybody knows."""

A_SERIES_MM = {
    "A6": (105, 148),
    "A5": (148, 210),
    "A4": (210, 297),
    "A3": (297, 420),
    "A2": (420, 594),
    "A1": (594, 841),
    "A0": (841, 1189),
}
"""ISO 216 (from memory): width and height in portrait, in millimetres, the smallest first."""
