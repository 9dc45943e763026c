"""Jobs: what is to be pressed, what has been prepared for it, and the clocks that run."""
