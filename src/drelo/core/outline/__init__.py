"""Closed and open outlines made of lines and cubic Béziers."""
