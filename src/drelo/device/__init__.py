"""A stand-in for a printer: a small program of its own that plays print jobs in time."""
