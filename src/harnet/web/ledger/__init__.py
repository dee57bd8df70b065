"""The Ledger view."""
