"""Images of a PDF as files of their own."""
