"""Blanks, and which a recipe is computed for."""
