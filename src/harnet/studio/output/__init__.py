"""Outputs: asked for, predicted, made, read back, sent."""
