"""Facts of picture files, read from their headers; the type is told by content, not by name."""
