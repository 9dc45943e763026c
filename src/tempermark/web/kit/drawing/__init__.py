"""Drawings, places and pictures."""
