"""Vector drawings in, of either kind: closed outlines and open lines in mm, ready for the sheet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from drelo.core.errors import Refusal
from drelo.core.outline.combine import united_rings
from drelo.core.outline.contour import Contour
from drelo.core.outline.drawn import Drawn
from drelo.core.outline.grow import widened
from drelo.formats.dxf_in import JOIN, read_dxf
from drelo.formats.svg_in import read_svg

# More outlines than this are more than a hand can mend.
MAX_OUTLINES = 20_000


@dataclass(frozen=True, eq=False)
class Brought:
    """One outline with its holes, or an open line; mm, y down. name: of its layer."""

    contours: tuple[Contour, ...]
    colour: str
    name: str = ""


@dataclass(frozen=True, eq=False)
class Drawing:
    """What a vector file holds. width, height: of all, mm. unit: what it was drawn in. remarks: what was left out.

    strokes: how many shapes of an SVG are strokes.
    """

    things: tuple[Brought, ...]
    width: float
    height: float
    unit: str
    remarks: tuple[str, ...]
    strokes: int = 0

    @property
    def open(self) -> int:
        return sum(not c.closed for t in self.things for c in t.contours)


@dataclass(frozen=True)
class Reading:
    """How a vector file is read.

    unit: in place of what a DXF says. join: ends of a DXF's lines nearer than this, mm, meet.
    lines: strokes of an SVG come in as lines along their middle, not as the areas that they cover.
    """

    unit: str | None = None
    join: float = JOIN
    lines: bool = False


PLAIN = Reading()


def read_drawing(data: bytes, name: str, how: Reading = PLAIN) -> Drawing:
    """An SVG or DXF, its upper left corner at 0, 0. Raises Refusal when it cannot be used."""
    if name.lower().endswith(".dxf") or (b"SECTION" in data[:400] and b"<svg" not in data):
        art = read_dxf(data, how.unit, how.join)
        things = _by_nesting([(line.contour, line.colour, line.layer) for line in art.lines])
        return _placed(things, art.unit, art.remarks)
    svg = read_svg(data)
    things = []
    filled = None
    for shape in svg.shapes:
        # A border drawn along a filled shape is that shape's outline once more.
        if not (how.lines and shape.stroke and shape.contours is filled):
            things += _svg_things(shape, how.lines)
        filled = None if shape.stroke else shape.contours
    return _placed(things, "mm", svg.remarks, sum(shape.stroke is not None for shape in svg.shapes))


def _svg_things(shape: Drawn, lines: bool) -> list[Brought]:
    if shape.stroke is not None and lines:
        return [Brought((contour,), shape.colour) for contour in shape.contours]
    if shape.stroke is not None:
        outlines = widened(shape.contours, shape.stroke.width, shape.stroke.cap, shape.stroke.join)
    else:
        outlines = united_rings(shape.contours, "evenodd" if shape.even_odd else "nonzero")
    return [Brought(o.contours, shape.colour) for o in outlines]


def _by_nesting(lines: Sequence[tuple[Contour, str, str]]) -> list[Brought]:
    """Loops of one colour and layer by the even-odd rule; open lines one by one."""
    groups: dict[tuple[str, str], list[Contour]] = {}
    things = []
    for contour, colour, layer in lines:
        if contour.closed:
            groups.setdefault((colour, layer), []).append(contour)
    for (colour, layer), contours in groups.items():
        name = "" if layer == "0" else layer
        things += [Brought(o.contours, colour, name) for o in united_rings(contours, "evenodd")]
    for contour, colour, layer in lines:
        if not contour.closed:
            things.append(Brought((contour,), colour, "" if layer == "0" else layer))
    return things


def _placed(things: Sequence[Brought], unit: str, remarks: Sequence[str], strokes: int = 0) -> Drawing:
    if not things:
        raise Refusal("drawing.no-outline", "drawing")
    if len(things) > MAX_OUTLINES:
        raise Refusal("drawing.too-many-outlines", "drawing", count=len(things), most=MAX_OUTLINES)
    boxes = np.array([c.bounds for t in things for c in t.contours])
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    x, y = low.tolist()
    moved = tuple(Brought(tuple(c.transformed(1.0, -x, -y) for c in t.contours), t.colour, t.name) for t in things)
    width, height = (high - low).tolist()
    return Drawing(moved, width, height, unit, tuple(remarks), strokes)
