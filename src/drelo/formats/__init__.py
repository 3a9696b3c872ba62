"""Bytes to core values and back: SVG, STL, 3MF, glTF, recipe."""
