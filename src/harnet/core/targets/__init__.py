"""What an output needs of a picture."""
