"""What to do: remedies, what to find out next, what would change the ranking, what must be said."""
