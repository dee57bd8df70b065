"""The list of targets."""
