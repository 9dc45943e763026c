"""Recipes with their versions, blanks, and the library of materials."""
