"""What a look over the outlines finds: the narrowest places, and rough spots of the trace."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import shapely

from drelo.core.form.checks import polygonal
from drelo.core.outline.clearance import Narrow, narrowest
from drelo.core.outline.fineness import MEASURED_CHORD
from drelo.core.picture.decode import Picture
from drelo.core.piece.art import Shape
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.trace.check.spots import Kind, rough_spots

# So many necks and gaps are looked at for rough spots.
NARROW_PLACES = 12
# px round a place where a trace is off.
UNTRUE = 6.0
# Chord tolerance of what is looked over in px.
PX_CHORD = 0.05


Off = Sequence[tuple[float, float, float]]
"""Places in a picture, px, and how far outlines are off there."""


@dataclass(frozen=True)
class Place:
    """A narrow place on the sheet: its width and its middle, mm."""

    width: float
    at: tuple[float, float]


@dataclass(frozen=True)
class RoughSpot:
    """A rough spot on the sheet: why, where and how far it reaches, mm, and how much it wants a look, 0..1.

    off: px of the picture by which outlines are off there, where the check of the trace found that.
    """

    kind: Kind
    at: tuple[float, float]
    radius: float
    weight: float
    off: float | None = None


@dataclass(frozen=True)
class LookOver:
    neck: Place | None
    gap: Place | None
    spots: tuple[RoughSpot, ...]


def look_over(
    pictures: Sequence[tuple[PlacedPicture, Picture]],
    shapes: Sequence[Shape],
    even: frozenset[tuple[str, str | None]],
    untrue: Sequence[tuple[PlacedPicture, Off]] = (),
) -> LookOver:
    """Narrow places of shapes, mm, and rough spots of what was traced of pictures.

    even: pictures and areas traced as strokes of even width, whose outlines keep off an edge that a pen drew unevenly.
    untrue: places where the check of a trace found it off, px, and by how much; they come first.
    """
    outlines = [shape.outline for shape in shapes]
    necks, gaps = narrowest(outlines, NARROW_PLACES)
    if any(shape.fill for shape in shapes):
        # Neighbours that share an edge leave no gap; what matters is what lies between all of them.
        whole = shapely.union_all([o.flattened(MEASURED_CHORD) for o in outlines], grid_size=1e-3)
        gaps = narrowest(polygonal(whole), NARROW_PLACES)[1]
    spots = [
        spot
        for placed, picture in pictures
        for spot in _spots(placed, picture, [s for s in shapes if s.picture == placed.id], even)
    ]
    spots.sort(key=lambda s: (-s.weight, s.at))
    worst = [
        RoughSpot("untrue", placed.place.on_sheet((x, y)), UNTRUE * placed.place.mm_per_px, 1.0, distance)
        for placed, places in untrue
        for x, y, distance in places
    ]
    spots = [*sorted(worst, key=lambda s: (-(s.off or 0.0), s.at)), *spots]
    return LookOver(_narrow(necks), _narrow(gaps), tuple(spots))


def _narrow(places: Sequence[Narrow]) -> Place | None:
    return Place(places[0].width, places[0].at) if places else None


def _spots(
    placed: PlacedPicture, picture: Picture, shapes: Sequence[Shape], even: frozenset[tuple[str, str | None]]
) -> list[RoughSpot]:
    """Rough spots of one picture's trace, which are told in its px."""
    place = placed.place
    a, b, c, d, e, f = place.matrix
    below = a * d - b * c
    back = (d / below, -b / below, -c / below, a / below, (c * f - d * e) / below, (b * e - a * f) / below)
    in_px = [s.outline.mapped(back) for s in shapes]
    necks, gaps = narrowest(in_px, NARROW_PLACES)
    if any(s.fill for s in shapes):
        whole = shapely.union_all([o.flattened(PX_CHORD) for o in in_px], grid_size=1e-3)
        gaps = narrowest(polygonal(whole), NARROW_PLACES)[1]
    traced = [o for o, s in zip(in_px, shapes, strict=True) if s.pen is None and (placed.id, s.area) not in even]
    found = rough_spots(picture, traced, necks, gaps)
    return [RoughSpot(s.kind, place.on_sheet(s.at), s.radius * place.mm_per_px, s.weight) for s in found]
