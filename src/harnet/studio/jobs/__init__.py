"""Jobs, their list and their pages."""
