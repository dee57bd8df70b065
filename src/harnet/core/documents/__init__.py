"""A document made elsewhere as values."""
