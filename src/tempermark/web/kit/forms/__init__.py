"""Forms: fields in a person's units, once-only keys, edits, tables."""
