"""Surveys: entered, computed, said and drawn."""
