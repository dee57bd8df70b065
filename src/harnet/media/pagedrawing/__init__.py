"""Pages as writers draw them: plans, lines of text, page images."""
