"""The tables, one module a subject."""
