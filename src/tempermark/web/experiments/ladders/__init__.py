"""Ladder sheets: planned, pressed, scored, answered."""
