"""Bounds on what is accepted: every file is hostile until read."""

MAX_FILE_BYTES = 2_000_000_000
MAX_PIXELS = 400_000_000
MAX_SVG_BYTES = 20_000_000
MAX_PDF_PAGES = 20_000
MAX_FORM_DEPTH = 60
MAX_FORMS_A_PAGE = 100_000
MAX_IFDS = 10_000
EXAMINE_SECONDS = 60
EXAMINE_MEMORY_BYTES = 3_000_000_000
"""Address space, not resident memory: shared libraries count towards it."""
COPY_SECONDS = 900
COPY_MEMORY_BYTES = 12_000_000_000
"""Address space again: libvips maps the files in which it keeps what does not fit in memory."""
