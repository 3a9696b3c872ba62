"""From an ink field to fitted outlines."""
