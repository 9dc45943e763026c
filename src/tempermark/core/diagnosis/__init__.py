"""Tracing a fault: knowledge as data, and the engine that reads it."""
