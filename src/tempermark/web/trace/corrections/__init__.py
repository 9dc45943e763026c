"""Corrections of what was entered, and what follows of them."""
