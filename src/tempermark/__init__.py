"""Tempermark: measuring, setting and fault tracing for heat press technicians."""

__version__ = "0.1.0"
