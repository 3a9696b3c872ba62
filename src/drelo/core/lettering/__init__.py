"""Text and fonts to outlines."""
