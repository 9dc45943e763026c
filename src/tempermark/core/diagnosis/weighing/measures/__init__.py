"""Arithmetic first: what the case's own numbers prove for or against a cause.

Each measure turns a deviation into log odds by a curve of `knowledge/measures.toml` and says it.
None means that the case does not know enough.
"""
