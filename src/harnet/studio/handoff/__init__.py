"""Handoff packs: a job in one ZIP, written, read without a database, and opened elsewhere."""
