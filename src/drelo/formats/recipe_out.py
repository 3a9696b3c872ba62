"""A recipe from a piece: its outlines as SVG, one fill a rule, and everything that the piece decided as JSON."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from drelo.core.form.relief import Height
from drelo.core.outline.outline import Outline, bounds
from drelo.core.piece.document import HOLDS, Document
from drelo.core.piece.form_numbers import EdgeOptions
from drelo.formats.svg import Drawing, write_svg

ART = "art.svg"
# So many places hold a number of the sheet as it is.
EXACT = 14


@dataclass(frozen=True, eq=False)
class RecipePart:
    """A region that is raised: its outline in mm, y down, and what was decided for it. colour: of its filament.

    hole: it goes through everything on its place.
    """

    outline: Outline
    height: Height
    colour: str
    name: str
    edge: EdgeOptions
    hole: bool = False


def write_recipe(document: Document, parts: Sequence[RecipePart]) -> dict[str, bytes]:
    """The recipe and its art by their file names; `drelo build` makes the same solid of them."""
    rules: dict[tuple[Any, ...], str] = {}
    drawings = []
    for part in parts:
        key = (part.height, part.colour, part.name, part.edge, part.hole)
        if key not in rules:
            rules[key] = _unused(part.colour, set(rules.values()))
        drawings.append(Drawing([part.outline], rules[key]))
    box = bounds(part.outline for part in parts) or (0.0, 0.0, 1.0, 1.0)
    placed = [Drawing([d.outlines[0].transformed(1.0, -box[0], -box[1])], d.fill) for d in drawings]
    heights = []
    for (height, colour, name, edge, hole), fill in rules.items():
        rule: dict[str, Any] = {"fill": fill, "height": height, "colour": colour}
        if name:
            rule["name"] = name
        rule["edge"] = edge.model_dump(mode="json", exclude_defaults=True)
        if hole:
            rule["hole"] = True
        heights.append(rule)
    recipe = {
        "drelo": 1,
        "units": "mm",
        "art": {"file": ART, **_size(document, box)},
        "form": document.form,
        "base": _base(document, box),
        "heights": heights,
        "layer": document.layer,
        "filaments": [{"colour": f.colour, "name": f.name, "material": f.material} for f in document.filaments],
        document.form: getattr(document, document.form).model_dump(mode="json", exclude_unset=True),
    }
    text = json.dumps(recipe, indent=2, ensure_ascii=False) + "\n"
    return {"recipe.json": text.encode(), ART: write_svg(placed, box[2] - box[0], box[3] - box[1], digits=EXACT)}


def _size(document: Document, box: tuple[float, float, float, float]) -> dict[str, float]:
    """A side that was typed and holds is exact in the solid."""
    size = document.size
    if size is None:
        return {}
    now = box[2] - box[0] if size.side == "width" else box[3] - box[1]
    return {size.side: size.mm} if abs(now - size.mm) < HOLDS else {}


def _base(document: Document, box: tuple[float, float, float, float]) -> dict[str, Any]:
    base = document.base
    colour = document.filament(base.filament).colour
    if document.form == "cutter":
        return {"colour": colour}
    shape = "outline" if base.shape == "none" and document.form != "relief" else base.shape
    common: dict[str, Any] = {
        "shape": shape,
        "margin": base.margin,
        "corner_radius": base.corner_radius,
        "colour": colour,
    }
    if base.sides and base.shape == "rectangle":
        common |= {"width": base.sides[0], "depth": base.sides[1]}
    if base.diameter and base.shape == "circle":
        common["diameter"] = base.diameter
    if base.at:
        common["at"] = [base.at[0] - box[0], box[3] - base.at[1]]
    if document.form != "relief":
        return common | ({"block": list(base.block)} if base.shape == "block" else {})
    return {**common, "thickness": base.thickness, "block": list(base.block), "keep_holes": base.keep_holes}


def _unused(colour: str, used: set[str]) -> str:
    """The colour, or the nearest one above it that no other rule has."""
    number = int(colour[1:], 16)
    while f"#{number:06x}" in used:
        number = (number + 1) % 0x1000000
    return f"#{number:06x}"
