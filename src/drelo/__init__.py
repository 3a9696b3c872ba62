"""Drelo: from a picture to a sealed solid."""
