"""Arithmetic before the press closes: growth and bleed, wrapped templates, mixes."""
