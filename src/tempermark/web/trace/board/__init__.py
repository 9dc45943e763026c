"""The trace board: a case built, diagnosed, answered and closed."""
