"""What an output can be."""

PDF, PAGE_IMAGE, PACK = "pdf", "page image", "pack"
