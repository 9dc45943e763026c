"""Recipes: shipped starting points, as data."""
