"""What those who run Harnet ask of it."""
