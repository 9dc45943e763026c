"""The made-up finishing room of the Vellmere Regatta: everybody and everything invented."""
