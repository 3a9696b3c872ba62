"""An order: all that a solid follows from, whoever asks for it; and the design that it comes to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.base import Base
from drelo.core.form.columns import Design
from drelo.core.form.cutter import Cutter, cutter
from drelo.core.form.holes import remarks_on_holes
from drelo.core.form.nameplate import Nameplate, nameplate
from drelo.core.form.relief import Part, Relief, holes_of, relief
from drelo.core.form.stamp import Stamp, stamp
from drelo.core.remark import Remark

Form = Literal["relief", "stamp", "cutter", "nameplate"]
# What encloses less than this share of its box's square encloses nothing.
NO_AREA = 1e-9


@dataclass(frozen=True, eq=False)
class Order:
    """What is to be built.

    parts: later ones cover earlier ones; mm, y up. numbers: those of the form. base: under a relief.
    """

    parts: tuple[Part, ...]
    numbers: Relief | Stamp | Cutter | Nameplate
    base: Base

    @property
    def form(self) -> Form:
        kinds: dict[type, Form] = {Relief: "relief", Stamp: "stamp", Cutter: "cutter", Nameplate: "nameplate"}
        return kinds[type(self.numbers)]


# Places that differ by rounding only become one, so that the same drawing gives the same bytes; mm.
STEP = 2.0**-28


def ordered(
    parts: Sequence[Part], numbers: Relief | Stamp | Cutter | Nameplate, base: Base
) -> tuple[Order, list[Remark]]:
    """An order of the parts that enclose something, and a remark on those that do not.

    Raises Refusal where none does and there is no plain block to build.
    """
    shapes = [p.shape for p in parts]
    kept = tuple(p for p, some in zip(parts, encloses(shapes), strict=True) if some)
    gone = len(parts) - len(kept)
    if not kept and not (isinstance(numbers, Relief) and base.stands_alone):
        if gone:
            raise Refusal("art.folds-back", "art")
        raise Refusal("art.no-outline", "art")
    if not gone:
        return Order(kept, numbers, base), []
    said = "1 outline encloses nothing and is" if gone == 1 else f"{gone} outlines enclose nothing and are"
    return Order(kept, numbers, base), [Remark(f"{said} left out.")]


def encloses(shapes: Sequence[BaseGeometry]) -> list[bool]:
    """Which shapes enclose an area that is more than rounding."""
    if not shapes:
        return []
    boxes = shapely.bounds(list(shapes))
    square = (boxes[:, 2] - boxes[:, 0]) ** 2 + (boxes[:, 3] - boxes[:, 1]) ** 2
    return [bool(v) for v in shapely.area(list(shapes)) > NO_AREA * square]


def design_of(order: Order, tolerance: float, plate: BaseGeometry | None = None) -> Design:
    """The form worked out. tolerance: mm, for curves. plate: the footprint of a relief's base, when it is known.

    Raises Refusal with the field's path.
    """
    design = _design(order, tolerance, plate)
    base = order.base if order.form == "relief" else None
    remarks = remarks_on_holes(order.parts, design.footprint, base)
    return replace(design, remarks=(*design.remarks, *remarks)) if remarks else design


def _design(order: Order, tolerance: float, plate: BaseGeometry | None) -> Design:
    solid, holes = [p for p in order.parts if not p.hole], holes_of(order.parts)
    if not solid and order.form != "relief":
        raise Refusal("art.only-holes", "art")
    match order.numbers:
        case Stamp():
            return _told_apart(stamp([p.shape for p in solid], order.numbers, tolerance, holes), solid)
        case Cutter():
            return cutter([p.shape for p in solid], order.numbers, tolerance, holes)
        case Nameplate():
            return nameplate(order.parts, order.numbers, tolerance)
        case Relief():
            return relief(order.parts, order.base, tolerance, plate, order.numbers)


def _told_apart(design: Design, parts: Sequence[Part]) -> Design:
    """A design whose owners are numbers of regions, not of parts."""
    return replace(design, owners=tuple(parts[o].number if o >= 0 else -1 for o in design.owners))


def laid(shapes: Sequence[BaseGeometry], factor: float = 1.0) -> list[BaseGeometry]:
    """Shapes drawn with y down, as they are built: y up, larger by a factor, the box of all at 0, 0."""
    some = [g for g in shapes if not g.is_empty]
    if not some:
        return list(shapes)
    boxes = shapely.bounds(some)
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    scale, move = np.array([factor, -factor]), np.array([-low[0] * factor, high[1] * factor])
    return list(shapely.transform(np.array(shapes), lambda xy: np.round((xy * scale + move) / STEP) * STEP))
