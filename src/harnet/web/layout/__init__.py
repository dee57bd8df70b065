"""The Pages view."""
