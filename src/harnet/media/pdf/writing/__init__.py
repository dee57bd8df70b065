"""Writing PDFs, weighing them beforehand, reading them back."""
