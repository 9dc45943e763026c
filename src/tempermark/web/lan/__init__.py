"""The shop's own network: a private authority, and how a tablet is brought in."""
