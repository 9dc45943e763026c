"""Which job on which press, when, at which setting."""
