"""Pressure and fit: what presses on the piece, how level, and where contact is lost."""
