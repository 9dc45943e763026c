"""Recipes: versions, forms, pages."""
