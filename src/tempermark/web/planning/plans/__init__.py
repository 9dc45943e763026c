"""A plan as it is shown, exported and changed by a wish."""
