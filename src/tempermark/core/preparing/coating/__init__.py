"""Coats: mixed, sprayed, brushed."""
