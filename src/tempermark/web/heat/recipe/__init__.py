"""A recipe's card: schools and settings computed."""
