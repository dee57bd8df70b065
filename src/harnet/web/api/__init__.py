"""The HTTP API under /api/v1: one module a resource, over the same use cases as the pages."""
