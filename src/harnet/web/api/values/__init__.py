"""Values as bodies and answers of the API have them, and as the core does."""
