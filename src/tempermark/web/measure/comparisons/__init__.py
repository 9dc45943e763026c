"""A gun against a contact probe."""
