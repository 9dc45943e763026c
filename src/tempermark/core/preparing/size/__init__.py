"""Sizes: growth and bleed, art under an outline, paper, straightness, nesting."""
