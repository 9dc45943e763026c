"""The open formats: parse, check with paths, hand to the core, write."""
