"""PDFs made elsewhere: read apart, judged, reported; with a database and without."""
