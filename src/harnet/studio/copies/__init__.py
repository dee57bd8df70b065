"""Print copies."""
