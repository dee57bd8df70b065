"""Print copies: their recipe, their size, and the copy that a frame needs."""
