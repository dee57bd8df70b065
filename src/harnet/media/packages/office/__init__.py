"""Presentations, text documents and spreadsheets of ISO/IEC 29500."""
