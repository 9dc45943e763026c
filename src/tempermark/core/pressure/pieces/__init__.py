"""What is under the platen: stacks, raised parts, vessels, caps."""
