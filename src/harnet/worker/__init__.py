"""Work in the background: tasks on the queue in PostgreSQL."""
