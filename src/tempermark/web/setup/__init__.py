"""Recipes and blanks."""
