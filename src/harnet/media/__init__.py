"""Files: reading facts and placements, drawing, writing and reading back."""
