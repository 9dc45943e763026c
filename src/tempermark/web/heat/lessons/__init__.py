"""What scored pieces and traces teach."""
