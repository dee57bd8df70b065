"""Preflight: one module a family of rules, and the registry that runs them."""
