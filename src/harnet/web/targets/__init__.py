"""The Targets view."""
