"""The permission matrix: rules, the gate that holds to them, and their page."""
