"""The web application: one blueprint a view, pages drawn by the server."""
