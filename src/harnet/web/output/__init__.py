"""The Output view."""
