"""A recipe from a piece: its outlines as SVG, one fill a rule, and everything that the piece decided as JSON."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from drelo.core.form.relief import Height
from drelo.core.outline.outline import Outline, bounds
from drelo.core.piece.document import Document
from drelo.core.piece.form_numbers import EdgeOptions
from drelo.formats.svg import Drawing, write_svg

ART = "art.svg"


@dataclass(frozen=True, eq=False)
class RecipePart:
    """A region that is raised: its outline in mm, y down, and what was decided for it. colour: of its filament."""

    outline: Outline
    height: Height
    colour: str
    name: str
    edge: EdgeOptions


def write_recipe(document: Document, parts: Sequence[RecipePart]) -> dict[str, bytes]:
    """The recipe and its art by their file names; `drelo build` makes the same solid of them."""
    rules: dict[tuple[Any, ...], str] = {}
    drawings = []
    for part in parts:
        key = (part.height, part.colour, part.name, part.edge)
        if key not in rules:
            rules[key] = _unused(part.colour, set(rules.values()))
        drawings.append(Drawing([part.outline], rules[key]))
    box = bounds(part.outline for part in parts) or (0.0, 0.0, 1.0, 1.0)
    placed = [Drawing([d.outlines[0].transformed(1.0, -box[0], -box[1])], d.fill) for d in drawings]
    heights = []
    for (height, colour, name, edge), fill in rules.items():
        rule: dict[str, Any] = {"fill": fill, "height": height, "colour": colour}
        if name:
            rule["name"] = name
        rule["edge"] = edge.model_dump(mode="json", exclude_defaults=True)
        heights.append(rule)
    recipe = {
        "drelo": 1,
        "units": "mm",
        "art": {"file": ART},
        "form": document.form,
        "base": _base(document),
        "heights": heights,
        "layer": document.layer,
        document.form: getattr(document, document.form).model_dump(mode="json", exclude_unset=True),
    }
    text = json.dumps(recipe, indent=2, ensure_ascii=False) + "\n"
    return {"recipe.json": text.encode(), ART: write_svg(placed, box[2] - box[0], box[3] - box[1])}


def _base(document: Document) -> dict[str, Any]:
    base = document.base
    colour = document.filament(base.filament).colour
    if document.form == "cutter":
        return {"colour": colour}
    shape = "outline" if base.shape == "none" and document.form != "relief" else base.shape
    common = {"shape": shape, "margin": base.margin, "corner_radius": base.corner_radius, "colour": colour}
    if document.form != "relief":
        return common
    return {**common, "thickness": base.thickness, "block": list(base.block), "keep_holes": base.keep_holes}


def _unused(colour: str, used: set[str]) -> str:
    """The colour, or the nearest one above it that no other rule has."""
    number = int(colour[1:], 16)
    while f"#{number:06x}" in used:
        number = (number + 1) % 0x1000000
    return f"#{number:06x}"
