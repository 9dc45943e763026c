"""The document of a day's plan."""
