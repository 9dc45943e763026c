"""Pressure and fit: learning a press, setting it for a blank, mapping it, and what fits."""
