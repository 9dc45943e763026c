"""Pieces of art placed close on sheets or along a roll."""
