"""Pictures, shelves, the agency."""
