"""Recipes of print copies."""

from harnet.core.copies.recipe import PixelBox, Recipe

HALF = Recipe(crop=PixelBox(0, 0, 1200, 800), px_w=600, px_h=400, density_x=300, density_y=300)
