"""A rehearsal as plain values: its report, and the lines of each pattern."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from pydantic import BaseModel, ConfigDict
from shapely.geometry.base import BaseGeometry

from drelo.core.rehearsal.beds import placed
from drelo.core.rehearsal.changes import change_words
from drelo.core.rehearsal.hatch import rings
from drelo.core.rehearsal.lines import KINDS
from drelo.core.rehearsal.nesting import Place
from drelo.core.rehearsal.settings import Spool
from drelo.core.rehearsal.troubles import Kind, Trouble
from drelo.core.rehearsal.whole import Part, Pattern, Rehearsal

# Points travel as whole numbers of this, mm.
STEP = 0.01


class Told(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", json_schema_serialization_defaults_required=True)


class PartOut(Told):
    """A pattern (by its number) that a body lays in a layer. seconds, volume (mm³): of one copy."""

    body: int
    pattern: int
    seconds: float
    volume: float


class LayerOut(Told):
    """top, thickness: mm. seconds: without changes of filament. parts: in the order in which they are laid."""

    top: float
    thickness: float
    seconds: float
    parts: tuple[PartOut, ...]


class BodyOut(Told):
    """What one filament comes to. volume, purged: mm³. enough: whether the spool holds it, where it was weighed."""

    name: str
    colour: str
    material: str
    volume: float
    purged: float
    metres: float
    grams: float
    price: float
    enough: bool | None


class ChangeOut(Told):
    """layer: from 1; z: where it begins, mm. words: the change as one says it."""

    layer: int
    z: float
    out: int
    into: int
    words: str


class TroubleOut(Told):
    """at: mm in the file; shape: rings, mm. first, last: layers, from 1. value, limit: mm or mm², by kind."""

    kind: Kind
    at: tuple[float, float]
    z: float
    first: int
    last: int
    value: float
    limit: float
    body: int | None
    shape: list[list[float]]


class PlaceOut(Told):
    """A copy: turned about its lower left corner (radians), which then lies at x, y of the bed, mm."""

    x: float
    y: float
    turn: float


class BedOut(Told):
    """places: of the copies on it. seconds: it takes. box: what is laid on it, mm: left, low, right, high."""

    places: tuple[PlaceOut, ...]
    box: tuple[float, float, float, float]
    seconds: float


class RehearsalReport(Told):
    """printer: that it is for, by its name. size: of the box, mm; corner: its lower left one in the file.

    footprint: what one copy covers of the bed, as rings, mm in the file. seconds, grams, metres, price: of everything.
    patterns: how many there are. kinds: of lines, by their number.
    """

    printer: str
    size: tuple[float, float, float]
    corner: tuple[float, float]
    footprint: list[list[float]]
    beds: tuple[BedOut, ...]
    seconds: float
    grams: float
    metres: float
    price: float
    layers: tuple[LayerOut, ...]
    bodies: tuple[BodyOut, ...]
    changes: tuple[ChangeOut, ...]
    troubles: tuple[TroubleOut, ...]
    patterns: int
    kinds: tuple[str, ...] = KINDS


def report(
    found: Rehearsal,
    spools: Sequence[Spool],
    box: tuple[np.ndarray, np.ndarray],
    troubles: Sequence[Trouble],
    places: Sequence[Sequence[Place]],
    footprint: BaseGeometry,
    printer: str,
) -> RehearsalReport:
    """box: the lowest and the highest corner of everything, mm. places: of the copies on each bed.

    footprint: what one covers of it.
    """
    low, high = box
    bodies = tuple(
        BodyOut(
            name=spool.name,
            colour=spool.colour,
            material=spool.material,
            volume=use.volume,
            purged=use.purged,
            metres=use.metres,
            grams=use.grams,
            price=use.price,
            enough=use.enough,
        )
        for spool, use in zip(spools, found.uses, strict=True)
    )
    size = tuple(float(v) for v in high - low)
    return RehearsalReport(
        printer=printer,
        size=(size[0], size[1], size[2]),
        corner=(float(low[0]), float(low[1])),
        footprint=_rings(footprint),
        beds=tuple(_bed(p, s, (size[0], size[1])) for p, s in zip(places, found.beds, strict=True)),
        seconds=found.seconds,
        grams=sum(b.grams for b in bodies),
        metres=sum(b.metres for b in bodies),
        price=sum(b.price for b in bodies),
        layers=tuple(
            LayerOut(
                top=round(layer.top, 4),
                thickness=round(layer.thickness, 4),
                seconds=layer.seconds,
                parts=tuple(_part(found, p) for p in layer.parts),
            )
            for layer in found.layers
        ),
        bodies=bodies,
        changes=tuple(
            ChangeOut(
                layer=c.layer,
                z=round(c.z, 4),
                out=c.out,
                into=c.into,
                words=change_words(c, [spool.name for spool in spools]),
            )
            for c in found.changes
        ),
        troubles=tuple(_trouble(t) for t in troubles),
        patterns=len(found.patterns),
    )


def _part(found: Rehearsal, part: Part) -> PartOut:
    pattern = found.patterns[part.pattern]
    return PartOut(body=part.body, pattern=part.pattern, seconds=pattern.seconds, volume=pattern.volume)


def _bed(places: Sequence[Place], seconds: float, size: tuple[float, float]) -> BedOut:
    corners = shapely.box(0, 0, *size)
    box = shapely.total_bounds(np.array([placed(corners, place) for place in places])).tolist()
    return BedOut(
        places=tuple(PlaceOut(x=round(p.x, 4), y=round(p.y, 4), turn=p.turn) for p in places),
        box=(box[0], box[1], box[2], box[3]),
        seconds=seconds,
    )


def _trouble(trouble: Trouble) -> TroubleOut:
    return TroubleOut(
        kind=trouble.kind,
        at=trouble.at,
        z=trouble.z,
        first=trouble.first,
        last=trouble.last,
        value=trouble.value,
        limit=trouble.limit,
        body=trouble.body,
        shape=_rings(trouble.shape),
    )


def _rings(shape: BaseGeometry) -> list[list[float]]:
    return [np.round(ring, 3).ravel().tolist() for ring in rings(shapely.simplify(shape, STEP))]


def trouble_of(told: TroubleOut, corner: tuple[float, float]) -> Trouble:
    """A trouble as it was found, its places counted from the corner of the file's box."""
    lines = [shapely.LinearRing(np.reshape(ring, (-1, 2)) - corner) for ring in told.shape if len(ring) >= 6]
    shape = shapely.build_area(shapely.geometrycollections(lines))
    at = (told.at[0] - corner[0], told.at[1] - corner[1])
    return Trouble(told.kind, shape, at, told.z, told.first, told.last, told.value, told.limit, told.body)


def pattern_json(pattern: Pattern) -> bytes:
    """The lines of a pattern: for each its kind (a number), its width (mm) and its points in steps; what is missing."""
    lines = pattern.laid.lines
    steps = np.round(lines.points / STEP).astype(np.int64)
    listed: list[Any] = [
        [int(kind), round(float(width), 3), steps[begin:end].ravel().tolist()]
        for kind, width, begin, end in zip(lines.kinds, lines.widths, lines.starts[:-1], lines.starts[1:], strict=True)
    ]
    missing = [np.round(ring / STEP).astype(np.int64).ravel().tolist() for ring in rings(pattern.laid.missing)]
    return json.dumps({"step": STEP, "lines": listed, "missing": missing}, separators=(",", ":")).encode()
