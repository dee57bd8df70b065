"""Keeping figures and findings right: what an edit changed is judged again, and only that."""
