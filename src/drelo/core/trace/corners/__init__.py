"""What a corner is, and where corners are."""
