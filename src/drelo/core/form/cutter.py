"""Form cutter: a blade round the silhouette, a flange to push on, ribs that mark the inner lines."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.base import mirrored, quarter_steps, without_holes
from drelo.core.form.checks import narrow_places
from drelo.core.form.columns import Design, Filament, Level, crossed
from drelo.core.outline.joining import bridge, links
from drelo.core.outline.outline import only_areas
from drelo.core.remark import Remark

NOTHING: BaseGeometry = shapely.Polygon()
# Dough narrower than this tears, and ribs closer than this hold it fast, mm.
LEAST_NECK, LEAST_SPACING = 6.0, 3.0
# A corner of the dough sharper than this (degrees) stays in the cutter.
SHARPEST = 50.0
# Sides shorter than this (mm) belong to a rounding, not to a corner.
SIDE = 0.5
# Crumbs of silhouette, mm².
CRUMB = 1.0
# Chord tolerance of what lies along the silhouette, against how thick its rind is.
RIND_CHORD = 0.05
# Shapes that one cutter cuts at once.
MAX_PARTS = 2000


@dataclass(frozen=True)
class Cutter:
    """Lengths in mm.

    edge, wall, taper: the blade is `edge` thick at its edge and widens to `wall` over the last `taper`.
    depth: from the flange's lower side to the edge. flange_width, flange_height: outside the wall.
    holes: the silhouette's holes larger than `hole_area` (mm²) are cut too.
    ribs: inner lines mark the dough; they are rib_width wide and end rib_short below the edge.
    bar_width: of the cross-bars that tie what is loose to the flange.
    flange_round: the flange's outer edges fall off over so much: at 45 degrees towards the bed, which prints without
    supports, round above. handle: a bar across the back, as high as the flange.
    """

    edge: float = 0.5
    wall: float = 1.2
    taper: float = 3.0
    depth: float = 14.0
    flange_width: float = 4.0
    flange_height: float = 3.0
    holes: bool = False
    hole_area: float = 80.0
    ribs: bool = True
    rib_width: float = 1.2
    rib_short: float = 4.0
    bar_width: float = 4.0
    flange_round: float = 0.0
    handle: bool = False
    handle_width: float = 14.0
    colour: str = "#30343b"
    layer: float = 0.2


def cutter(art: Sequence[BaseGeometry], numbers: Cutter, tolerance: float, holes: BaseGeometry = NOTHING) -> Design:
    """Design of a cutter whose biscuit has the drawn size and faces as drawn; it lies on its flange.

    art: shapes in painting order, mm, y up. holes: what is always cut out of the dough.
    Raises Refusal with the field's path.
    """
    whole = shapely.union_all(list(art))
    if not whole.area > 0:
        raise Refusal("cutter.no-outline", "art")
    if not any(part.area > CRUMB for part in shapely.get_parts(without_holes(whole))):
        raise Refusal("cutter.too-small", "art", least=CRUMB)
    _check(numbers)
    silhouette = _silhouette(whole, numbers)
    if not holes.is_empty:
        silhouette = only_areas(shapely.difference(silhouette, holes))
    parts = int(shapely.get_num_geometries(silhouette))
    if parts > MAX_PARTS:
        raise Refusal("cutter.too-many-parts", "art", parts=parts, most=MAX_PARTS)
    dough = mirrored(silhouette)
    remarks = _remarks(silhouette, numbers)
    steps = quarter_steps(numbers.wall + numbers.flange_width, tolerance)

    def ring(reach: float) -> BaseGeometry:
        return shapely.difference(shapely.buffer(dough, reach, quad_segs=steps), dough)

    marks = mirrored(inner_lines(art, silhouette, numbers)) if numbers.ribs else shapely.Polygon()
    blade = ring(numbers.wall)
    bars = _bars(blade, marks, numbers)
    flange, undercut = _flange(ring, numbers)
    if numbers.handle:
        bars = shapely.union(bars, _handle(ring(numbers.wall + numbers.flange_width), numbers))
    tops: list[Level] = [
        *flange,
        (bars, numbers.flange_height),
        (marks, numbers.depth - numbers.rib_short),
        (blade, numbers.depth - numbers.taper),
    ]
    count = max(1, math.ceil(numbers.taper / numbers.layer - 1e-9))
    for i in range(count):
        thick = numbers.wall + (numbers.edge - numbers.wall) * (i + 1) / count
        tops.append((ring(thick), numbers.depth - numbers.taper * (1 - (i + 1) / count)))
    if shapely.get_num_geometries(marks) > 1:
        spacing = narrow_places(marks)[1]
        if spacing is not None and spacing.width < LEAST_SPACING:
            remarks.append(
                Remark(
                    f"Marking ribs are {spacing.width:.1f} mm apart; under {LEAST_SPACING:g} mm dough sticks between.",
                    (-spacing.at[0], spacing.at[1]),
                )
            )
    layers, columns, _ = crossed(tops, undercut, 0.0)
    reach = shapely.buffer(silhouette, numbers.wall + numbers.flange_width, quad_segs=steps)
    filaments = (Filament(numbers.colour, "cutter"),)
    return Design(layers, columns, filaments, tuple(remarks), silhouette, mirrored(marks), footprint=reach)


def _check(numbers: Cutter) -> None:
    ranges = (
        ("edge", numbers.edge, 0.1, 10.0),
        ("wall", numbers.wall, 0.2, 20.0),
        ("depth", numbers.depth, 2.0, 200.0),
        ("taper", numbers.taper, 0.0, 200.0),
        ("flange_width", numbers.flange_width, 0.0, 100.0),
        ("flange_height", numbers.flange_height, 0.2, 100.0),
        ("rib_width", numbers.rib_width, 0.2, 20.0),
        ("rib_short", numbers.rib_short, 0.0, 200.0),
        ("bar_width", numbers.bar_width, 0.4, 50.0),
        ("flange_round", numbers.flange_round, 0.0, 20.0),
        ("handle_width", numbers.handle_width, 2.0, 100.0),
        ("layer", numbers.layer, 0.02, 2.0),
    )
    for name, value, low, high in ranges:
        if not (math.isfinite(value) and low <= value <= high):
            raise Refusal("cutter.out-of-range", f"cutter.{name}", name=name, low=low, high=high)
    if numbers.edge > numbers.wall:
        raise Refusal("cutter.edge-over-wall", "cutter.edge")
    if numbers.flange_height + numbers.taper > numbers.depth:
        raise Refusal(
            "cutter.too-shallow",
            "cutter.depth",
            flange_height=numbers.flange_height,
            taper=numbers.taper,
            depth=numbers.depth,
        )
    if numbers.ribs and numbers.depth - numbers.rib_short <= 0:
        raise Refusal("cutter.ribs-too-short", "cutter.rib_short")


def _silhouette(whole: BaseGeometry, numbers: Cutter) -> BaseGeometry:
    outer = without_holes(whole)
    parts = [p for p in shapely.get_parts(outer) if p.area > CRUMB]
    outer = shapely.union_all(parts)
    if not numbers.holes:
        return outer
    gaps = [g for g in shapely.get_parts(shapely.difference(outer, whole)) if g.area >= numbers.hole_area]
    return only_areas(shapely.difference(outer, shapely.union_all(gaps))) if gaps else outer


def inner_lines(art: Sequence[BaseGeometry], silhouette: BaseGeometry, numbers: Cutter) -> BaseGeometry:
    """What marks the dough inside the silhouette, as areas rib_width wide or a little more.

    Shapes thin enough to be lines mark by themselves, the borders of others as lines along them.
    """
    half = numbers.rib_width / 2
    room = silhouette.buffer(-half / 2)
    thin, borders = [], []
    for seen in _seen(art):
        for part in shapely.get_parts(only_areas(seen)):
            # A line drawn wide counts as one line, not as its two sides.
            if part.buffer(-1.25 * numbers.rib_width).is_empty:
                widened = part if part.buffer(-half * 0.8).area > 0 else part.buffer(half / 2)
                thin.append(widened)
            else:
                borders.append(shapely.boundary(part))
    lines = shapely.intersection(shapely.union_all(borders), room) if borders else shapely.LineString()
    lines = shapely.difference(lines, _rind(art, silhouette))
    ribs = [lines.buffer(half, quad_segs=8)] if not lines.is_empty else []
    ribs += [shapely.intersection(area, silhouette) for area in thin]
    if not ribs:
        return shapely.Polygon()
    joined = shapely.intersection(shapely.union_all(ribs), silhouette)
    parts = [p for p in shapely.get_parts(only_areas(joined)) if p.area > half * half]
    return shapely.union_all(parts) if parts else shapely.Polygon()


def _seen(art: Sequence[BaseGeometry]) -> list[BaseGeometry]:
    """What of each shape lies under no later one."""
    tree = shapely.STRtree(list(art))
    result = []
    for number, shape in enumerate(art):
        over = [art[i] for i in tree.query(shape, predicate="intersects").tolist() if i > number]
        result.append(shapely.difference(shape, shapely.union_all(over)) if over else shape)
    return result


def nearest_shapes(art: Sequence[BaseGeometry], points: NDArray[np.float64]) -> NDArray[np.int64]:
    """The number of the shape that is seen nearest to each point of the built cutter.

    art: as drawn, mm, y up; points: shape (n, 2), mm. The cutter itself is built mirrored.
    """
    tree = shapely.STRtree([mirrored(seen) for seen in _seen(art)])
    return np.asarray(tree.nearest(shapely.points(points)), np.int64)


def _rind(art: Sequence[BaseGeometry], silhouette: BaseGeometry) -> BaseGeometry:
    """Where lines would only repeat the silhouette: along shapes that are the drawing's own outline."""
    lines = shapely.get_parts(shapely.boundary(shapely.get_parts(silhouette)))
    tree = shapely.STRtree(lines)
    rind = []
    for part in shapely.get_parts(only_areas(shapely.union_all(list(art)))):
        thick = 2 * part.area / max(part.length, 1e-9)
        if thick >= LEAST_NECK:
            continue
        near = lines[tree.query(part, predicate="dwithin", distance=2 * thick)]
        if shapely.dwithin(near, part, CRUMB / 10).any():
            # How far the rind reaches need not be exact; a wide growth of many short chords takes long.
            beside = shapely.simplify(shapely.union_all(near), thick * RIND_CHORD, preserve_topology=False)
            rind.append(shapely.intersection(part.buffer(CRUMB / 10), beside.buffer(2 * thick, quad_segs=4)))
    return shapely.union_all(rind) if rind else shapely.Polygon()


def _bars(blade: BaseGeometry, marks: BaseGeometry, numbers: Cutter) -> BaseGeometry:
    """Cross-bars that make blade and ribs one part."""
    parts = list(shapely.get_parts(shapely.union(blade, marks)))
    found = [bridge(link, numbers.bar_width, numbers.wall / 2) for link in links(parts)]
    return shapely.union_all(found) if found else shapely.Polygon()


def _flange(ring: Callable[[float], BaseGeometry], numbers: Cutter) -> tuple[list[Level], list[Level]]:
    """The flange's tops, outermost first, and what lies free of the bed beneath its outer edge."""
    whole, high = numbers.wall + numbers.flange_width, numbers.flange_height
    size = min(numbers.flange_round, numbers.flange_width, high / 2)
    if size <= 0:
        return [(ring(whole), high)], []
    count = max(1, math.ceil(size / numbers.layer - 1e-9))
    tops, floors = [], []
    for i in range(count):
        # The outermost step is the lowest; each is as far in as the middle of its layer.
        up = (count - i - 0.5) / count
        inward = size * (1 - math.sqrt(max(0.0, 1 - up * up)))
        tops.append((inward, high - size + size * (count - i) / count))
        floors.append((size * (i + 0.5) / count, size * (count - i) / count))
    tops.reverse()
    solid = [(ring(whole - inward), top) for inward, top in tops]
    outer = ring(whole)
    free = [(shapely.difference(outer, ring(whole - inward)), low) for inward, low in reversed(floors)]
    return solid, free


def _handle(flange: BaseGeometry, numbers: Cutter) -> BaseGeometry:
    """A bar across the middle, the long way, and shorter ones to what it does not reach."""
    box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(flange))[:3]
    sides = np.diff(box, axis=0)
    along = sides[int(np.argmax(np.hypot(*sides.T)))]
    middle = np.asarray(shapely.get_coordinates(shapely.convex_hull(flange).centroid)[0])
    half = numbers.handle_width / 2
    axis = shapely.LineString([middle - along, middle + along])
    across = shapely.buffer(axis, half, cap_style="flat")
    met = shapely.get_coordinates(shapely.intersection(across, flange))
    if not len(met):
        return shapely.Polygon()
    # From where it first meets the flange to where it last does.
    unit = along / np.hypot(*along)
    places = (met - middle) @ unit
    ends = [middle + unit * float(places.min()), middle + unit * float(places.max())]
    inside = shapely.buffer(shapely.LineString(ends), half, cap_style="flat")
    bar: BaseGeometry = shapely.intersection(inside, shapely.convex_hull(flange))
    parts = list(shapely.get_parts(shapely.union(flange, bar)))
    return shapely.union_all([bar, *(bridge(link, numbers.handle_width, 0.1) for link in links(parts))])


def _remarks(silhouette: BaseGeometry, numbers: Cutter) -> list[Remark]:
    remarks = []
    count = int(shapely.get_num_geometries(silhouette))
    if count > 1:
        held = "A handle holds" if numbers.handle else "Thin bars hold"
        more = "" if numbers.handle else " A handle is sturdier."
        said = f"It cuts {count} biscuits at once. {held} the cutters together.{more}"
        remarks.append(Remark(said, remedy=None if numbers.handle else "handle"))
    neck = narrow_places(silhouette)[0]
    if neck is not None and neck.width < LEAST_NECK:
        remarks.append(
            Remark(
                f"The dough is only {neck.width:.1f} mm wide here; under {LEAST_NECK:g} mm it tears. "
                "Make the art larger or thicken it there.",
                neck.at,
            )
        )
    sharp = sharp_corners(silhouette)
    if sharp:
        many = f"{len(sharp)} corners are" if len(sharp) > 1 else "A corner is"
        them = "them" if len(sharp) > 1 else "it"
        remarks.append(
            Remark(f"{many} sharper than {SHARPEST:g}°, and dough sticks in there. Round {them} off.", sharp[0])
        )
    if numbers.wall - numbers.edge > numbers.taper > 0:
        remarks.append(
            Remark("The blade's taper is blunter than 45° and squashes the dough. Taper it over a greater height.")
        )
    return remarks


def sharp_corners(shape: BaseGeometry) -> list[tuple[float, float]]:
    """Corners of the dough that are sharper than it leaves the cutter from."""
    found = []
    for part in shapely.get_parts(shapely.orient_polygons(shape)):
        for ring in (part.exterior, *part.interiors):
            points = shapely.get_coordinates(shapely.simplify(ring, SIDE / 10))[:-1]
            into, out = points - np.roll(points, 1, axis=0), np.roll(points, -1, axis=0) - points
            turn = np.arctan2(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], (into * out).sum(axis=1))
            long = (np.hypot(*into.T) > SIDE) & (np.hypot(*out.T) > SIDE)
            sharp = long & (np.degrees(np.pi - np.abs(turn)) < SHARPEST)
            found += [(float(x), float(y)) for x, y in points[sharp]]
    return found
