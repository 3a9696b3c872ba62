"""What the maker draws over a picture."""
