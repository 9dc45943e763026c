"""The web skin: one app per job of the user."""
