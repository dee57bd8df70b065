"""SVG as a document: the images that it paints."""
