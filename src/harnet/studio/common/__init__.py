"""What all use cases share."""
