"""Pressure over the platen: strips, prints, level and hollow."""
