"""What earlier pieces and cases tell: marks that come again, and how well guesses held."""
