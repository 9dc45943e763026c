"""The hours of people, and how the shop plans."""
