"""What a look over the outlines finds: the narrowest places, and rough spots of the trace."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from drelo.core.form.checks import polygonal
from drelo.core.outline.clearance import Narrow, narrowest
from drelo.core.picture.decode import Picture
from drelo.core.piece.art import Shape
from drelo.core.piece.flat import Sheet
from drelo.core.trace.spots import Kind, rough_spots

# So many necks and gaps are looked at for rough spots.
NARROW_PLACES = 12
CHORD = 0.05


@dataclass(frozen=True)
class Place:
    """A narrow place on the sheet: its width and its middle, mm."""

    width: float
    at: tuple[float, float]


@dataclass(frozen=True)
class RoughSpot:
    """A rough spot on the sheet: why, where and how far it reaches, mm, and how much it wants a look, 0..1."""

    kind: Kind
    at: tuple[float, float]
    radius: float
    weight: float


@dataclass(frozen=True)
class LookOver:
    neck: Place | None
    gap: Place | None
    spots: tuple[RoughSpot, ...]


def look_over(picture: Picture | None, shapes: Sequence[Shape], sheet: Sheet, even: frozenset[str | None]) -> LookOver:
    """Narrow places and rough spots of shapes in px of their picture, or mm without one, on the sheet.

    even: areas traced as strokes of even width, whose outlines keep off an edge that a pen drew unevenly.
    """
    outlines = [shape.outline for shape in shapes]
    necks, gaps = narrowest(outlines, NARROW_PLACES)
    if any(shape.fill for shape in shapes):
        # Neighbours that share an edge leave no gap; what matters is what lies between all of them.
        whole = shapely.union_all([o.flattened(CHORD) for o in outlines], grid_size=1e-3)
        gaps = narrowest(polygonal(whole), NARROW_PLACES)[1]
    traced = [s.outline for s in shapes if s.pen is None and s.drawn is None and s.area not in even]
    spots = () if picture is None else rough_spots(picture, traced, necks, gaps)

    def place(x: float, y: float) -> tuple[float, float]:
        (sx, sy) = sheet.place(np.array([[x, y]]))[0].tolist()
        return sx, sy

    def narrow(places: Sequence[Narrow]) -> Place | None:
        return Place(places[0].width * sheet.scale, place(*places[0].at)) if places else None

    return LookOver(
        narrow(necks),
        narrow(gaps),
        tuple(RoughSpot(s.kind, place(*s.at), s.radius * sheet.scale, s.weight) for s in spots),
    )
