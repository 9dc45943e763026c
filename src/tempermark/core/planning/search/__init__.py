"""The search for the best plan: what is known before it, the model, the solver."""
