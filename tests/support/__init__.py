"""What tests of several areas share."""
