"""The simulated outside world, each part behind an interface with the errors of the real one."""
