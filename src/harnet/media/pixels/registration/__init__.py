"""Finding the part of an original that an image shows, to within a pixel."""
