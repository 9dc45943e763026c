"""Clocks: the strip on every page, and what is done to one."""
