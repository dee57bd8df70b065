"""The simulated outside world."""
