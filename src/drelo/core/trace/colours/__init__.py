"""Mode colours: a few flat colours whose areas share their edges."""
