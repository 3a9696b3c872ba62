"""The fonts that ship with Drelo, each under the SIL Open Font License beside it."""

from __future__ import annotations

from importlib.resources import files

NAMES = {
    "script": "Joined script",
    "sans": "Bold sans",
    "slab": "Slab",
    "serif": "Serif",
    "stencil": "Stencil",
    "round": "Rounded",
}


def font_bytes(name: str) -> bytes:
    """A shipped font. Raises KeyError when there is none of that name."""
    if name not in NAMES:
        raise KeyError(name)
    return (files(__package__) / f"{name}.woff2").read_bytes()
