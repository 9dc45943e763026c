"""Orders, and the day's plan of them."""
