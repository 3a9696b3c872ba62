"""The cabinet: silhouettes and line drawings that ship with the program."""

from __future__ import annotations

import io
import json
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from PIL import Image

SMALL = 100
ORIGIN = "Drelo's own cabinet"


@dataclass(frozen=True)
class Motif:
    """words: what it is found under, beside its name. kind: silhouette or line drawing."""

    id: str
    name: str
    words: tuple[str, ...]
    kind: str


@cache
def motifs() -> tuple[Motif, ...]:
    """All of them, by name."""
    listing = json.loads(files(__package__).joinpath("motifs", "motifs.json").read_text(encoding="utf-8"))
    found = (Motif(m["id"], m["name"], tuple(m["words"]), m["kind"]) for m in listing)
    return tuple(sorted(found, key=lambda m: m.name))


def motif(identifier: str) -> Motif | None:
    """The motif of that id."""
    return next((m for m in motifs() if m.id == identifier), None)


def picture(found: Motif) -> bytes:
    """A motif as PNG."""
    return files(__package__).joinpath("motifs", f"{found.id}.png").read_bytes()


@cache
def small_picture(found: Motif) -> bytes:
    """A motif as PNG of SMALL px a side, to choose by."""
    packed = io.BytesIO()
    with Image.open(io.BytesIO(picture(found))) as whole:
        whole.convert("L").resize((SMALL, SMALL), Image.Resampling.BOX).save(packed, "PNG")
    return packed.getvalue()
