"""What the API takes and gives, as pydantic models, one module a resource."""
