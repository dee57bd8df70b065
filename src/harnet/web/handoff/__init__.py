"""Handoff packs."""
