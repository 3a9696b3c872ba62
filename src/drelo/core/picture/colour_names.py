"""Colours called as a maker would call them."""

from __future__ import annotations

from functools import lru_cache

from drelo.core.picture.palette import colour_distance

# What is nearest by eye gives the name; several shades share one.
_SHADES = {
    "black": ("#000000", "#1c1c1c"),
    "grey": ("#555555", "#808080", "#aaaaaa"),
    "light grey": ("#d0d0d0",),
    "white": ("#ffffff", "#f4f4f0"),
    "cream": ("#f3e7c9", "#efe0b0"),
    "brown": ("#6b4226", "#8b5a2b", "#4a2c14"),
    "tan": ("#c8a878", "#d2b48c"),
    "red": ("#d01c1c", "#ff0000", "#a01818"),
    "rust": ("#b5532f",),
    "orange": ("#f08020", "#ff9933"),
    "yellow": ("#f5d020", "#ffff00", "#e6c200"),
    "lime": ("#a8d030", "#7fff00"),
    "green": ("#2e8b3a", "#00c000", "#1f5f2a", "#60b060"),
    "teal": ("#1f7a72", "#20a0a0"),
    "light blue": ("#8ec8e8", "#a8d8f0"),
    "blue": ("#2050c8", "#0000ff", "#4080e0"),
    "navy": ("#1a2550", "#2a3a5a"),
    "purple": ("#7030a0", "#5a2a80", "#a060d0"),
    "pink": ("#f090b0", "#ffc0cb", "#e04890"),
}


@lru_cache(maxsize=1024)
def colour_name(colour: str) -> str:
    """The plain name of a colour, #rrggbb."""
    return min(_SHADES, key=lambda name: min(colour_distance(colour, shade) for shade in _SHADES[name]))
