"""What a print would make of a design."""
