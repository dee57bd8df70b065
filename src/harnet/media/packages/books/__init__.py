"""EPUB."""
