"""Readings as they come: the stream, its keys, blocks and viewers."""
