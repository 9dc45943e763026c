"""People, their roles and their units."""
