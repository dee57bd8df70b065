"""Opening a PDF that anyone may have sent."""
