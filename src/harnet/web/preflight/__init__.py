"""The Preflight view, reports, review links."""
