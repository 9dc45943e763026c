"""Blanks: how many are there, how many the open jobs take, what is short."""
