"""What is kept: rows in PostgreSQL, bytes in the blob store, the history of edits."""
