"""The fonts that ship with Drelo, each under the SIL Open Font License beside it."""

from __future__ import annotations

from importlib.resources import files

from drelo.core.errors import Refusal

NAMES = {
    "script": "Joined script",
    "sans": "Bold sans",
    "regular": "Regular sans",
    "light": "Light sans",
    "slab": "Slab",
    "serif": "Serif",
    "stencil": "Stencil",
    "round": "Rounded",
}


def shipped_font(name: str) -> bytes:
    """The bytes of a shipped font. Raises Refusal when there is none of that name."""
    if name not in NAMES:
        raise Refusal("font.unknown", "font", name=name, fonts=tuple(NAMES))
    return (files(__package__) / f"{name}.woff2").read_bytes()
