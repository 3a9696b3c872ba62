"""Operations on areas: combine, offset, thicken, give a width, pour, and holes to hang by."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.outline import grow
from drelo.core.outline.combine import combined, divided
from drelo.core.outline.contour import Contour, Matrix
from drelo.core.outline.fineness import GROWN_CHORD
from drelo.core.outline.outline import Outline
from drelo.core.outline.path_data import write_path
from drelo.core.outline.pour import Leak, pour
from drelo.core.outline.primitives import ellipse
from drelo.core.outline.walls import thickened
from drelo.core.piece.document import RegionChoice
from drelo.core.piece.drawn import DrawnPath, DrawnShape
from drelo.core.piece.edits import Reshape
from drelo.core.piece.operations import Combine, Loop, Offset, Pour, Thicken, Widen
from drelo.core.piece.shaping.symmetry import maps_of, repeated
from drelo.core.piece.shaping.workshop import (
    Item,
    Workshop,
    items,
    mark_of,
    name_of,
    outlines_of_picked,
    paths,
    put_out,
)

# A gap up to this (mm) is called a leak; wider ones are just open.
WIDEST_LEAK = 20.0


def combine(shop: Workshop, operation: Combine) -> Reshape:
    found = items(shop, operation.picked)
    closed = [i for i in found if i.outlines]
    whole = outlines_of_picked(closed)
    if operation.how in ("carve", "overlap") and len(closed) < 2:
        raise Refusal("combine.too-few", "picked")
    if operation.how == "divide":
        groups: list[list[Outline]] = [[o] for o in divided(whole)]
    elif operation.how in ("unite", "silhouette"):
        groups = [combined("unite" if operation.how == "unite" else "silhouette", whole)]
    elif operation.how == "carve":
        groups = [combined("carve", closed[0].outlines, [o for i in closed[1:] for o in i.outlines])]
    else:
        shared = closed[0].outlines
        for item in closed[1:]:
            shared = combined("overlap", shared, item.outlines)
        groups = [shared]
    if not any(groups):
        raise Refusal("combine.nothing-left", "picked")
    put, choices = paths(operation.seed, groups, closed, name_of(closed))
    drop, out = put_out(closed)
    return Reshape(name=operation.how, put=put, drop=drop, leave_out=out, choices=choices)


def offset(shop: Workshop, operation: Offset) -> Reshape:
    found = items(shop, operation.picked)
    grown = grow.offset_twice(
        outlines_of_picked(found), operation.by, operation.back, operation.corners, operation.fill_holes
    )
    if not grown:
        raise Refusal("shrink.nothing-left", "by")
    put, choices = paths(operation.seed, [grown], found, "Border" if operation.by > 0 else "Inset")
    if operation.keep:
        # A border lies beneath what it surrounds, an inset on top.
        beneath = tuple(t.model_copy(update={"beneath": operation.by > 0}) for t in put)
        return Reshape(name="offset", put=beneath, choices=_half_as_high(shop, beneath, found, grown))
    drop, out = put_out(found)
    return Reshape(name="offset", put=put, drop=drop, leave_out=out, choices=choices)


def _half_as_high(
    shop: Workshop, put: Sequence[DrawnPath], found: Sequence[Item], outlines: Sequence[Outline]
) -> tuple[RegionChoice, ...]:
    """A border stands half as high as what it surrounds, so that this stays to be seen."""
    choice = next((i.regions[0].choice for i in found if i.regions), None)
    height = choice.height if choice and choice.height is not None else shop.document.default_height
    if not put or not put[0].beneath or not isinstance(height, float | int) or height <= 0:
        return ()
    return tuple(
        RegionChoice(id=f"{put[0].id}-{i}", mark=mark_of(o), height=round(height / 2, 3))
        for i, o in enumerate(outlines)
    )


def thicken(shop: Workshop, operation: Thicken) -> Reshape:
    found = items(shop, operation.picked)
    wider = thickened(outlines_of_picked(found), operation.least)
    put, choices = paths(operation.seed, [wider], found, name_of(found))
    drop, out = put_out(found)
    return Reshape(name="thicken", put=put, drop=drop, leave_out=out, choices=choices)


def widen(shop: Workshop, operation: Widen) -> Reshape:
    found = items(shop, operation.picked)
    wide = grow.widened(_whole_lines(found), operation.width, operation.ends, operation.corners)
    if not wide:
        raise Refusal("widen.no-line", "picked")
    put, choices = paths(operation.seed, [wide], found, name_of(found))
    drop, out = put_out(found)
    return Reshape(name="width", put=put, drop=drop, leave_out=out, choices=choices)


def poured(shop: Workshop, operation: Pour) -> Reshape:
    contours = [c for _, c in shop.open_lines] + [c for r in shop.regions for c in r.shape.outline.contours]
    found = pour(contours, operation.at, operation.gap)
    if found.outline is None:
        raise leak_refusal(found.leak)
    own, follow = repeated([found.outline], [t.follow for t in shop.document.drawn])
    path = write_path([c for o in own for c in o.contours])
    return Reshape(name="pour", put=(DrawnPath(id=operation.seed, name="Pour", path=path, follow=follow),))


def leak_refusal(leak: Leak | None) -> Refusal:
    if leak is None or leak.width > WIDEST_LEAK:
        return Refusal("pour.not-enclosed", "at")
    return Refusal("pour.leaks", "gap", width=leak.width)


def find_leak(shop: Workshop, at: tuple[float, float], gap: float = 0.0) -> tuple[Leak, bool] | None:
    """The gap wider than `gap` through which a pour at a point would run on, mm, and whether something else holds it.

    None when it fills what it should, or nothing encloses it.
    """
    contours = [c for _, c in shop.open_lines] + [c for r in shop.regions for c in r.shape.outline.contours]
    found = pour(contours, at, gap)
    return (found.leak, found.outline is not None) if found.leak and found.leak.width <= WIDEST_LEAK else None


def _whole_lines(found: Sequence[Item]) -> list[Contour]:
    """Contours of what is picked with all repeats: a half that its mirror image closes is one closed contour."""
    contours: list[Contour] = []
    for item in found:
        if item.follow is None:
            contours += item.contours
            continue
        contours += [c for o in item.outlines for c in o.contours]
        done = [grow.area_of(item.outlines)] if item.outlines else []
        for matrix in maps_of(item.follow):
            contours += [line.mapped(matrix) for line in item.lines if not _is_border(line.mapped(matrix), done)]
    return contours


def _is_border(line: Contour, areas: Sequence[shapely.Geometry]) -> bool:
    """Whether a line runs along the border of areas."""
    way = shapely.LineString(line.flattened(GROWN_CHORD))
    return any(shapely.covers(shapely.buffer(shapely.boundary(area), 0.01), way) for area in areas)


def loop(shop: Workshop, operation: Loop) -> Reshape:
    """A key loop fused with an outline, or a hole; the hole is a thing of its own that goes through everything."""
    found = items(shop, [operation.id])
    whole = outlines_of_picked(found)
    at = operation.at or hanging_place(whole, operation.inner, operation.wall, operation.kind)
    across, name = operation.inner, f"{operation.seed}h"
    hole = DrawnShape(id=name, name="Hanging hole", form="circle", at=at, width=across, height=across, hole=True)
    area = grow.area_of(whole)
    if operation.kind == "hole":
        if not shapely.intersects_xy(area, *at):
            raise Refusal("hole.outside", "at")
        if area.difference(shapely.Point(at).buffer(operation.inner / 2)).is_empty:
            raise Refusal("hole.takes-everything", "inner")
        return Reshape(name="hole", put=(hole,))
    by: Matrix = (1.0, 0.0, 0.0, 1.0, *at)
    outer = operation.inner + 2 * operation.wall
    ring = Outline(ellipse(outer, outer).mapped(by))
    if not shapely.intersects(area, ring.flattened(GROWN_CHORD)):
        raise Refusal("loop.apart", "at")
    fused = [_without_nicks(o, area, operation.wall) for o in combined("unite", whole, [ring])]
    put, choices = paths(operation.seed, [fused], found, name_of(found))
    drop, out = put_out(found)
    return Reshape(name="loop", put=(*put, hole), drop=drop, leave_out=out, choices=choices)


def _without_nicks(outline: Outline, before: BaseGeometry, wall: float) -> Outline:
    """Without the holes that a loop has left between itself and the border: new ones, narrower than its wall."""

    def meant(hole: Contour) -> bool:
        area = shapely.make_valid(shapely.Polygon(hole.flattened(GROWN_CHORD)))
        return not shapely.buffer(area, -wall / 2).is_empty

    def was_there(hole: Contour) -> bool:
        spot = shapely.Polygon(hole.flattened(GROWN_CHORD)).representative_point()
        return any(shapely.contains(shapely.Polygon(r), spot) for p in shapely.get_parts(before) for r in p.interiors)

    return Outline(outline.outer, tuple(h for h in outline.holes if meant(h) or was_there(h)))


def hanging_place(outlines: Sequence[Outline], inner: float, wall: float, kind: str) -> tuple[float, float]:
    """Where a hole or a loop hangs an outline level: over its balance point, at the upper edge.

    A hole keeps a wall of `wall` mm all round; a loop stands on the edge. Raises Refusal where there is no room.
    """
    area = shapely.union_all([shapely.Polygon(p.exterior) for p in shapely.get_parts(grow.area_of(outlines))])
    balance = area.centroid
    _, y0, _, y1 = area.bounds
    if kind == "loop":
        room = area
    else:
        room = shapely.buffer(grow.area_of(outlines), -(inner / 2 + wall))
        if room.is_empty:
            raise Refusal("hole.no-room", "inner")
    # The highest place on the upright line through the balance point, else the one nearest to that line.
    upright = shapely.intersection(room, shapely.LineString([(balance.x, y0 - 1), (balance.x, y1 + 1)]))
    if upright.is_empty:
        corners = shapely.get_coordinates(room)
        best = corners[np.argmin(np.abs(corners[:, 0] - balance.x) * 4 + (corners[:, 1] - y0))]
        return float(best[0]), float(best[1])
    top = float(upright.bounds[1])
    return float(balance.x), top - (inner / 2 if kind == "loop" else 0.0)
