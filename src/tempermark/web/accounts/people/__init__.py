"""The people of the shop: invited, their roles, their passwords, where they are signed in."""
