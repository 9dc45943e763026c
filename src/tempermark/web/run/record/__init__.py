"""The log: its entries, the labels of pieces, their photographs."""
