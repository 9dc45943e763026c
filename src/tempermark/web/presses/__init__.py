"""The register: presses, their elements, photographs, labels, and what happened to them."""
