"""What will not print as it is drawn, measured on the layers and their lines; each with its place and its value.

The same thing in neighbouring layers is one trouble, from the first of them to the last.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from itertools import groupby, pairwise
from typing import Literal, TypeVar

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.compiled import THREADS
from drelo.core.outline.offset import offset
from drelo.core.outline.outline import only_areas
from drelo.core.outline.walls import tight_gaps
from drelo.core.rehearsal.feet import feet
from drelo.core.rehearsal.layers import ROUNDING, Slices
from drelo.core.rehearsal.lines import Floats
from drelo.core.rehearsal.settings import Manner, Printer
from drelo.core.rehearsal.thin import width_of
from drelo.core.rehearsal.whole import Rehearsal
from drelo.core.solid.mesh import Mesh

Kind = Literal[
    "not printed",
    "gap closes",
    "starts in the air",
    "overhang",
    "bridge",
    "little hold",
    "loose part",
    "too large",
    "too tall",
    "between layers",
]
T = TypeVar("T")
U = TypeVar("U")
MOST = 200
# What share of the work the search for gaps is.
GAPS = 0.5
# An overhang up to so many degrees from upright holds by itself.
STEEP = math.radians(45)
# Overhangs and bridges smaller than this many lines across are no trouble.
SMALL = 1.5
# A bridge holds up to so far, mm.
LONGEST_BRIDGE = 10.0
# What is so many times as high as its foot is wide, or stands on less than so much, comes off the bed, mm².
HIGHEST, LEAST_FOOT = 8.0, 12.0
# A level further than this from the nearest layer comes out at another height, as a share of the layer.
OFF_GRID = 0.05
# What is lost of a tip, in squares of a line.
TIP = 1.2
# A level face is at least so large, mm², and on the average so many lines wide: less is the tread of a slope.
LEVEL, TREAD = 0.5, 0.5


@dataclass(frozen=True, eq=False)
class Trouble:
    """at: mm, as the file has it; z: mm. first, last: layers, from 1. value, limit: mm, mm² or a share, by kind.

    shape: where it is, as seen from above. body: whose it is, where it is one's.
    """

    kind: Kind
    shape: BaseGeometry
    at: tuple[float, float]
    z: float
    first: int
    last: int
    value: float
    limit: float
    body: int | None = None


def troubles(
    meshes: Sequence[Mesh],
    found: Rehearsal,
    printer: Printer,
    manner: Manner,
    things: Sequence[Sequence[BaseGeometry]] | None = None,
    share: Callable[[float], None] = lambda _: None,
) -> tuple[Trouble, ...]:
    """All that will not print as it is drawn, the lowest first.

    things: what is solid in each layer of each thing that should hang together; without them all is one.
    share: takes how much is done, 0 to 1.
    """
    slices = found.slices
    if things is None:
        things = [[slices.whole(number) for number in range(len(slices.tops))]]
    result = [*_size(meshes, slices, printer)]
    result += _merged(_not_printed(found, printer, manner))
    # Told of the narrowest layer only, for it takes long.
    result += [replace(gap, value=_narrow(gap.shape)) for gap in _merged(_gaps(slices, printer))]
    share(GAPS)
    result += _merged(_unsupported(slices, printer))
    share(1.0)
    result += _hold(slices)
    for thing in things:
        result += _loose(thing, slices.tops)
    result += _between(meshes, slices, printer, manner)
    return tuple(sorted(result, key=lambda t: (t.first, t.kind))[:MOST])


def _size(meshes: Sequence[Mesh], slices: Slices, printer: Printer) -> Iterator[Trouble]:
    vertices = [mesh.vertices for mesh in meshes if len(mesh.faces)]
    if not vertices:
        return
    low, high = np.min([v.min(0) for v in vertices], 0), np.max([v.max(0) for v in vertices], 0)
    width, depth, height = (float(v) for v in high - low)
    box = shapely.box(low[0], low[1], high[0], high[1])
    middle = (float(low[0] + high[0]) / 2, float(low[1] + high[1]) / 2)
    last = len(slices.tops)
    if printer.bed == "round":
        corners = np.vstack([v[:, :2] for v in vertices])
        across = 2 * float(shapely.minimum_bounding_radius(shapely.multipoints(corners)))
        if across > printer.width:
            yield Trouble("too large", box, middle, 0.0, 1, last, across, printer.width)
    else:
        for side, most in ((width, printer.width), (depth, printer.depth)):
            turned = max(width, depth) <= max(printer.width, printer.depth) and min(width, depth) <= min(
                printer.width, printer.depth
            )
            if side > most and not turned:
                yield Trouble("too large", box, middle, 0.0, 1, last, side, most)
                break
    if height > printer.height:
        yield Trouble("too tall", box, middle, height, last, last, height, printer.height)


def _not_printed(found: Rehearsal, printer: Printer, manner: Manner) -> Iterator[Trouble]:
    least = manner.thinnest * printer.line_width
    for number, layer in enumerate(found.layers):
        for part in layer.parts:
            for shape in shapely.get_parts(found.patterns[part.pattern].laid.missing):
                # The tips of pointed things always end in a round.
                if shape.area > TIP * printer.line_width**2:
                    yield _trouble("not printed", shape, number, layer.top, width_of(shape), least, part.body)


def _gaps(slices: Slices, printer: Printer) -> Iterator[Trouble]:
    wholes = list(_wholes(slices))
    found = _at_once(
        lambda whole: tight_gaps(whole, printer.nozzle), [whole for _, whole, same in wholes if same is None]
    )
    gaps: list[BaseGeometry] = []
    for number, _, same in wholes:
        gaps = next(found) if same is None else gaps
        for shape in gaps:
            yield _trouble("gap closes", shape, number, float(slices.tops[number]), width_of(shape), printer.nozzle)


def _unsupported(slices: Slices, printer: Printer) -> Iterator[Trouble]:
    """What begins in the air, hangs over, or bridges a gap; each layer on the one below it."""
    wholes = list(_wholes(slices))
    steps = [(below, whole, number) for (_, below, _), (number, whole, same) in pairwise(wholes) if same != number - 1]
    for found in _at_once(lambda step: list(_hanging(*step, slices, printer)), steps):
        yield from found


def _at_once(work: Callable[[T], U], things: Sequence[T]) -> Iterator[U]:
    """What comes of each, in order; several at a time, for their geometry leaves Python to itself."""
    with ThreadPoolExecutor(THREADS) as threads:
        yield from threads.map(work, things)


def _hanging(
    below: BaseGeometry, whole: BaseGeometry, number: int, slices: Slices, printer: Printer
) -> Iterator[Trouble]:
    top, thickness = float(slices.tops[number]), float(slices.thickness[number])
    parts = shapely.get_parts(whole)
    parts = parts[~shapely.is_empty(parts)]
    # Most layers lie on the one below, up to what rounding does: asked first, for all else takes long. What is made
    # ready for many questions must not be asked by two threads at once: a layer of its own.
    own = shapely.multipolygons(shapely.get_parts(only_areas(below)))
    shapely.prepare(own)
    parts = parts[~shapely.covers(own, parts)]
    if len(parts):
        nearly = offset(below, ROUNDING, quad_segs=1)
        shapely.prepare(nearly)
        parts = parts[~shapely.covers(nearly, parts)]
    if not len(parts):
        return
    # What touches in a line or a point only has nothing under it. Borders that lie on each other take long to cut.
    under = shapely.area(shapely.intersection(parts, offset(below, -ROUNDING, quad_segs=1)))
    is_held = under >= SMALL * thickness * printer.nozzle
    for shape in parts[~is_held]:
        yield _trouble("starts in the air", shape, number, top, float(shape.area), 0.0)
    standing = shapely.MultiPolygon(list(parts[is_held]))
    reach = thickness * math.tan(STEEP)
    small = SMALL * printer.line_width
    free = only_areas(shapely.difference(standing, offset(below, reach)))
    free = offset(offset(free, -small / 2), small / 2)
    for shape in shapely.get_parts(only_areas(free)):
        if shape.area < small * small:
            continue
        sides = shapely.get_parts(only_areas(shapely.intersection(shapely.buffer(shape, reach + small), below)))
        apart = sorted(sides, key=lambda s: -s.area)[:2]
        if len(apart) == 2 or _is_ringed(shape, below, reach + small):
            span = 2 * float(shapely.maximum_inscribed_circle(shape).length)
            if span > LONGEST_BRIDGE:
                yield _trouble("bridge", shape, number, top, span, LONGEST_BRIDGE)
        else:
            away = shapely.distance(below, shapely.points(shapely.get_coordinates(shape))).max()
            yield _trouble("overhang", shape, number, top, float(shape.area), float(away))


def _is_ringed(shape: BaseGeometry, below: BaseGeometry, reach: float) -> bool:
    """Whether most of a shape's border rests on what is below."""
    border = shapely.boundary(shape)
    return bool(shapely.intersection(border, shapely.buffer(below, reach)).length > 0.6 * border.length)


def _hold(slices: Slices) -> Iterator[Trouble]:
    """Parts that stand on too little for their height."""
    for foot in feet([slices.whole(number) for number in range(len(slices.tops))], slices.tops):
        wide = _narrow(foot.shape)
        if foot.shape.area < LEAST_FOOT and foot.alone > wide:
            yield _trouble("little hold", foot.shape, 0, foot.alone, float(foot.shape.area), LEAST_FOOT)
        elif foot.alone > HIGHEST * wide:
            yield _trouble("little hold", foot.shape, 0, foot.alone, foot.alone / wide, HIGHEST)


def _loose(areas: Sequence[BaseGeometry], tops: Floats) -> Iterator[Trouble]:
    """Parts that nothing joins to the largest one. areas: what is solid of one thing that should hang together."""
    standing = sorted(feet(areas, tops), key=lambda foot: -foot.shape.area)
    for foot in standing[1:]:
        if not foot.is_held:
            box = foot.shape.bounds
            across = max(box[2] - box[0], box[3] - box[1])
            yield _trouble("loose part", foot.shape, 0, foot.alone, across, 0.0)


def _between(meshes: Sequence[Mesh], slices: Slices, printer: Printer, manner: Manner) -> Iterator[Trouble]:
    """Level faces that lie between two layers: they come out higher or lower."""
    for number, mesh in enumerate(meshes):
        if not len(mesh.faces):
            continue
        corners = mesh.corners
        normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        size = np.hypot(np.hypot(normal[:, 0], normal[:, 1]), normal[:, 2]) / 2
        is_level = (normal[:, 2] > 0) & (np.ptp(corners[:, :, 2], axis=1) < 1e-4)
        for z in np.unique(np.round(corners[is_level][:, 0, 2], 3)):
            mine = is_level & (abs(corners[:, 0, 2] - z) < 1e-3)
            nearest = float(slices.tops[np.argmin(abs(slices.tops - z))])
            off = abs(nearest - float(z))
            if off <= OFF_GRID * manner.layer or size[mine].sum() <= LEVEL or z <= 0:
                continue
            if _mean_width(mesh.faces[mine], corners[mine]) > TREAD * printer.line_width:
                largest = corners[mine][np.argmax(size[mine])]
                shape = shapely.Polygon(largest[:, :2])
                layer = int(np.argmin(abs(slices.tops - z)))
                yield _trouble("between layers", shape, layer, float(z), float(z), nearest, number)


def _mean_width(faces: NDArray[np.int32], corners: NDArray[np.float64]) -> float:
    """How wide level triangles are together, mm: twice their area by the length of their border."""
    ends = np.sort(np.stack([faces, np.roll(faces, -1, axis=1)], axis=2).reshape(-1, 2), axis=1).astype(np.int64)
    lengths = np.hypot(*(np.roll(corners, -1, axis=1) - corners)[:, :, :2].reshape(-1, 2).T)
    # One number for each pair is sorted in a fraction of the time.
    _, which, count = np.unique((ends[:, 0] << 32) | ends[:, 1], return_inverse=True, return_counts=True)
    border = float(lengths[count[which] == 1].sum())
    u, v = corners[:, 1, :2] - corners[:, 0, :2], corners[:, 2, :2] - corners[:, 0, :2]
    area = float(abs(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]).sum()) / 2
    return 2 * area / border if border > 0 else math.inf


def _wholes(slices: Slices) -> Iterator[tuple[int, BaseGeometry, int | None]]:
    """Each layer's number, what is solid in it, and the layer just below where it is the same."""
    before: tuple[int, ...] | None = None
    whole: BaseGeometry = shapely.Polygon()
    for number in range(len(slices.tops)):
        # Sections that are the same are the same object.
        now = tuple(id(body[number]) for body in slices.areas)
        if now == before:
            yield number, whole, number - 1
        else:
            before, whole = now, slices.whole(number)
            yield number, whole, None


def _trouble(
    kind: Kind, shape: BaseGeometry, layer: int, z: float, value: float, limit: float, body: int | None = None
) -> Trouble:
    at = shapely.get_coordinates(shapely.point_on_surface(shape))[0]
    return Trouble(kind, shape, (float(at[0]), float(at[1])), z, layer + 1, layer + 1, value, limit, body)


def _narrow(shape: BaseGeometry) -> float:
    """How wide something narrow is, mm."""
    circle = shapely.maximum_inscribed_circle(np.array([shape]), 0.01)
    return 2 * float(shapely.length(circle)[0])


def _merged(found: Iterator[Trouble]) -> list[Trouble]:
    """The same place in neighbouring layers as one. found: of lower layers first."""
    result: list[Trouble] = []
    # Which one each of the layer below belongs to.
    below: list[tuple[int, Trouble]] = []
    for layer, some in groupby(found, lambda trouble: trouble.first):
        here = list(some)
        below = [(k, trouble) for k, trouble in below if trouble.first == layer - 1]
        tree = shapely.STRtree([trouble.shape for _, trouble in below])
        one, other = tree.query([trouble.shape for trouble in here], predicate="intersects")
        goes_on: dict[int, int] = {}
        for i, k in sorted((i, below[j][0]) for i, j in zip(one.tolist(), other.tolist(), strict=True)):
            if result[k].body == here[i].body:
                goes_on.setdefault(i, k)
        below = []
        for i, trouble in enumerate(here):
            if i in goes_on:
                before = result[goes_on[i]]
                worst = trouble if _worse(trouble, before) else before
                result[goes_on[i]] = replace(worst, first=before.first, last=layer, z=before.z)
            else:
                goes_on[i] = len(result)
                result.append(trouble)
            below.append((goes_on[i], trouble))
    return result


def _worse(one: Trouble, other: Trouble) -> bool:
    narrow = one.kind in ("not printed", "gap closes")
    return one.value < other.value if narrow else one.value > other.value
