"""What fits: seams, vessels, caps, blanks."""
