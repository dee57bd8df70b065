"""The pictures that Harnet knows, and their shelves."""
