"""Places of a piece that a print would not forgive, as the flat view shows them, each with what would mend it."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.form.base import mirrored
from drelo.core.form.columns import Design
from drelo.core.form.relief import Height
from drelo.core.piece.document import Document
from drelo.core.piece.edits import Picked, SetRegions
from drelo.core.piece.flat import sheet_box, sheet_path
from drelo.core.piece.operations import Offset, Thicken, Tie
from drelo.core.rehearsal.printability import Kind, WeakSpot, weak_spots

TIE_WIDTH = 1.6
Mend = SetRegions | Offset | Thicken | Tie
PlaceKind = Kind | Literal["below a layer"]


@dataclass(frozen=True)
class WeakPlace:
    """A weak spot on the sheet: path, at and radius in mm; at_solid: the same place of the solid, its box at 0.

    width: what was measured, and least: what the print can carry, mm. regions: whose it is.
    mend: an edit that would help, where there is one.
    """

    kind: PlaceKind
    path: str
    at: tuple[float, float]
    at_solid: tuple[float, float, float]
    radius: float
    width: float
    least: float
    regions: tuple[str, ...]
    mend: Mend | None


@dataclass(frozen=True)
class Standing:
    """A kept region: how it is picked, its shape (mm, as drawn), its height."""

    pick: Picked
    shape: BaseGeometry
    height: Height


def weak_places(
    document: Document, design: Design, regions: Sequence[Standing], left: float, bottom: float
) -> tuple[WeakPlace, ...]:
    """Weak spots of a design, the narrowest first, and regions lower than a layer.

    left, bottom: where the design's origin lies on the sheet, mm.
    """
    origin = _origin(design)
    built_mirrored = document.form in ("stamp", "cutter")
    places = []
    for number, spot in enumerate(weak_spots(design, document.nozzle)):
        shape = mirrored(spot.shape) if built_mirrored else spot.shape
        at = (-spot.at[0] if built_mirrored else spot.at[0], spot.at[1])
        owner = regions[spot.owner] if 0 <= spot.owner < len(regions) else None
        places.append(
            WeakPlace(
                spot.kind,
                sheet_path(shape, left, bottom),
                (left + at[0], bottom - at[1]),
                (spot.at[0] - origin[0], spot.at[1] - origin[1], spot.height),
                _reach(shape, left, bottom),
                spot.width,
                document.nozzle,
                (owner.pick.id,) if owner else (),
                _mend(document, spot, owner, regions, number),
            )
        )
    return (*places, *_low(document, regions, left, bottom, origin))


def _origin(design: Design) -> tuple[float, float]:
    """Where the box of the solid starts, mm, as the design has it."""
    box = shapely.total_bounds([g for g, c in zip(design.layers, design.columns, strict=True) if c])
    return float(box[0]), float(box[1])


def _reach(shape: BaseGeometry, left: float, bottom: float) -> float:
    box = sheet_box(shape.bounds, left, bottom)
    return max(box[2], box[3]) / 2


def _mend(
    document: Document, spot: WeakSpot, owner: Standing | None, regions: Sequence[Standing], number: int
) -> Mend | None:
    if owner is None or document.form not in ("relief", "nameplate", "stamp"):
        return None
    # A name that no thing of the piece has, and the same for the same piece.
    told = repr([[t.id for t in document.drawn], owner.pick.id, spot.kind, number])
    seed = "m" + hashlib.sha256(told.encode()).hexdigest()[:12]
    if spot.kind == "thin wall":
        return Thicken(seed=seed, picked=(owner.pick.id,), least=document.nozzle)
    if spot.kind == "tight gap":
        return Offset(seed=seed, picked=(owner.pick.id,), by=document.nozzle / 2, back=-document.nozzle / 2, keep=False)
    if spot.kind == "loose part" and document.base.shape == "none":
        return Tie(seed=seed, picked=tuple(r.pick.id for r in regions), width=TIE_WIDTH)
    return None


def _low(
    document: Document, regions: Sequence[Standing], left: float, bottom: float, origin: tuple[float, float]
) -> list[WeakPlace]:
    if document.form not in ("relief", "nameplate"):
        return []
    low = [r for r in regions if r.height != "through" and 0 < abs(r.height) < document.layer - 1e-9]
    places = []
    for region in low:
        height = float(region.height)
        sign = 1.0 if height > 0 else -1.0
        inside = region.shape.representative_point()
        places.append(
            WeakPlace(
                "below a layer",
                sheet_path(region.shape, left, bottom),
                (left + inside.x, bottom - inside.y),
                (inside.x - origin[0], inside.y - origin[1], document.base.thickness + max(height, 0.0)),
                _reach(region.shape, left, bottom),
                abs(height),
                document.layer,
                (region.pick.id,),
                SetRegions(picked=(region.pick,), height=sign * document.layer),
            )
        )
    return places
