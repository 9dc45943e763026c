"""What the shop buys and charges: prices in its own currency."""
