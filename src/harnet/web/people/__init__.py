"""Tokens."""
