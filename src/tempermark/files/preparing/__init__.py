"""Documents of what is computed before the press closes."""
