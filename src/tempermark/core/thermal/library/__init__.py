"""Materials and receiving surfaces, shipped as data."""
