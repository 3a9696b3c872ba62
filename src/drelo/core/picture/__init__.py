"""From the bytes of a picture to a continuous ink field."""
