"""What heat does to a stack on a press: simulated, its windows, and what pieces teach."""
