"""The samples of an image in a PDF: what they mean, and the samples themselves."""
