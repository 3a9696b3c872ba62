"""The way from lines to fitted contours, for all modes."""
