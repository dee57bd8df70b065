"""Named settings of outputs, and their published form."""
