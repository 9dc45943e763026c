"""Wash trials: rounds, scores, what is left."""
