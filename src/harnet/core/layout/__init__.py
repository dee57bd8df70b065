"""What lies on a page: frames, gestures, snapping, edges, rows."""
