"""Heat beside the press: how pieces cool, how to hover, how a platen changes."""
