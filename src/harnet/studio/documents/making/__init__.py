"""What is made of a checked PDF: its images as files, its pages as images, improved copies."""
