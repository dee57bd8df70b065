"""Recipes of print copies."""

from harnet.core.copies.recipe import PixelBox, Recipe

HALF = Recipe(PixelBox(0, 0, 1200, 800), 600, 400, 300, 300)
