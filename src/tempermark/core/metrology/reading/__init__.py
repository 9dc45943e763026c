"""One place read: from what the instrument showed to the true temperature."""
