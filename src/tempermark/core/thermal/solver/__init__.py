"""Heat through a stack over time: layers, cells, conduction, closings in a row."""
