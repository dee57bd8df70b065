"""What is wanted of outputs, and what they do to pictures."""
