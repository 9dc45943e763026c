"""What speaks for and against a cause, as odds: findings, evidence, strengths, and the network."""
