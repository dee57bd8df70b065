"""What the views of several areas share."""
