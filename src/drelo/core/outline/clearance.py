"""Where outlines come close to themselves or to others: necks of what they cover, and gaps between."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.near import points_tree
from drelo.core.outline.fineness import EXACT_SHARE, MEASURED_CORNER
from drelo.core.outline.outline import Outline

Array = NDArray[np.float64]

# Samples that all outlines together get, and the largest distance between two against their whole extent.
SAMPLES, SPARSEST = 8000, 1 / 200
# Two edges face each other when seen from the middle between them they lie this far apart (cosine of the angle).
FACING = -0.985
# On one contour the way round is at least so many times as long as the way across: else it is a tip, or a notch.
AROUND = 12.0
# Directions that a corner looks in.
FAN = 7
ROUNDS = 14
# What faces each other is at least this share of the ball's diameter apart.
LEAST_SHARE = 0.99
# More contours than this are not compared pair by pair.
MOST_BOXES = 2000


@dataclass(frozen=True)
class Narrow:
    """A narrow place: its width, and its middle, in the unit of the outlines."""

    width: float
    at: tuple[float, float]


def narrowest(outlines: Sequence[Outline], many: int = 1) -> tuple[tuple[Narrow, ...], tuple[Narrow, ...]]:
    """The narrowest necks and the narrowest gaps, the narrowest first, at most `many` of each.

    A ball is shrunk at every sample until it touches another place only.
    Source: J. Ma, S. Bae and S. Choi, "3D medial axis point approximation using nearest neighbors and the normal
    field", 2012.
    """
    samples = _sampled(outlines)
    if samples is None:
        return (), ()
    return _narrow(samples, 1.0, many), _narrow(samples, -1.0, many)


@dataclass(frozen=True, eq=False)
class _Samples:
    """Points and unit normals into the covered side, shape (n, 2); contour, way along it, and that one's length.

    lone: whether a ball on the covered side, and one on the other, can touch nothing but the contour it hangs on.
    """

    point: Array
    normal: Array
    contour: NDArray[np.int64]
    along: Array
    length: Array
    lone: tuple[NDArray[np.bool_], NDArray[np.bool_]]
    extent: float


def _sampled(outlines: Sequence[Outline]) -> _Samples | None:
    contours = [c for o in outlines for c in o.contours if len(c)]
    if not contours:
        return None
    # Holes run against their outer contour, so that one sign tells the covered side of both.
    sides = [float(np.sign(o.outer.area)) or 1.0 for o in outlines for c in o.contours if len(c)]
    boxes = np.array([c.bounds for c in contours])
    extent = float(np.hypot(*(boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0))))
    rings = [c.flattened(max(extent * EXACT_SHARE, 1e-9)) for c in contours]
    lengths = [float(np.linalg.norm(np.roll(r, -1, axis=0) - r, axis=1).sum()) for r in rings]
    spacing = min(max(sum(lengths) / SAMPLES, 1e-9), extent * SPARSEST)
    parts: list[tuple[Array, Array, Array]] = [_ring(r, spacing) for r in rings]
    number = np.repeat(np.arange(len(parts)), [len(p[0]) for p in parts])
    return _Samples(
        np.concatenate([p[0] for p in parts]),
        np.concatenate([p[1] * side for p, side in zip(parts, sides, strict=True)]),
        number,
        np.concatenate([p[2] for p in parts]),
        np.array(lengths)[number],
        (_alone_inside(outlines)[number], _alone_outside(outlines, boxes)[number]),
        extent,
    )


def _alone_inside(outlines: Sequence[Outline]) -> NDArray[np.bool_]:
    """For every contour whether its outline has no other."""
    counts = [sum(len(c) > 0 for c in o.contours) for o in outlines]
    return np.repeat(np.array(counts) == 1, counts)


def _alone_outside(outlines: Sequence[Outline], boxes: Array) -> NDArray[np.bool_]:
    """For every contour whether nothing lies on its uncovered side: in the hole, or round the only outline."""
    outer = np.array([c is o.outer for o in outlines for c in o.contours if len(c)])
    if len(boxes) > MOST_BOXES:
        return np.zeros(len(boxes), bool)
    holds = (boxes[:, None, :2] <= boxes[None, :, :2]).all(axis=2) & (boxes[:, None, 2:] >= boxes[None, :, 2:]).all(
        axis=2
    )
    empty = holds.sum(axis=1) == 1
    alone: NDArray[np.bool_] = np.where(outer, len(outlines) == 1, empty)
    return alone


def _ring(ring: Array, spacing: float) -> tuple[Array, Array, Array]:
    step = np.roll(ring, -1, axis=0) - ring
    size = np.linalg.norm(step, axis=1)
    ring, step, size = ring[size > 0], step[size > 0], size[size > 0]
    way = step / size[:, None]
    normal = np.stack([-way[:, 1], way[:, 0]], axis=1)
    start = np.cumsum(size) - size
    count = np.maximum(1, np.ceil(size / spacing)).astype(np.int64)
    owner = np.repeat(np.arange(len(ring)), count)
    t = (np.arange(len(owner)) - (np.cumsum(count) - count)[owner] + 0.5) / count[owner]
    points, normals, along = ring[owner] + t[:, None] * step[owner], normal[owner], start[owner] + t * size[owner]
    before = np.roll(normal, 1, axis=0)
    turn = np.arctan2(before[:, 0] * normal[:, 1] - before[:, 1] * normal[:, 0], np.einsum("ni,ni->n", before, normal))
    at = np.flatnonzero(np.abs(turn) > MEASURED_CORNER)
    share = np.linspace(0, 1, FAN)
    angle = np.arctan2(before[at, 1], before[at, 0])[:, None] + turn[at][:, None] * share
    fan = np.stack([np.cos(angle), np.sin(angle)], axis=2).reshape(-1, 2)
    return (
        np.concatenate([points, np.repeat(ring[at], FAN, axis=0)]),
        np.concatenate([normals, fan]),
        np.concatenate([along, np.repeat(start[at], FAN)]),
    )


def _narrow(samples: _Samples, side: float, many: int) -> tuple[Narrow, ...]:
    point, normal = samples.point, samples.normal * side
    tree = points_tree(point)
    # Balls too large for a narrow place of one contour with itself are not tried: round the middle of a circle
    # everything is equally near, and the search would take the square of the samples.
    lone = samples.lone[0 if side > 0 else 1]
    radius = np.where(lone, np.minimum(samples.length / (4 * AROUND * LEAST_SHARE), samples.extent), samples.extent)
    touch = np.full(len(point), -1, np.int64)
    active = np.arange(len(point))
    for _ in range(ROUNDS):
        centre = point[active] + normal[active] * radius[active, None]
        distance, nearest = tree.query(centre)
        closer = distance < radius[active] * (1 - 1e-6)
        active, nearest = active[closer], nearest[closer]
        if not len(active):
            break
        across = point[nearest] - point[active]
        ahead = np.einsum("ni,ni->n", across, normal[active])
        good = ahead > 1e-12
        active, nearest, across, ahead = active[good], nearest[good], across[good], ahead[good]
        radius[active] = np.einsum("ni,ni->n", across, across) / (2 * ahead)
        touch[active] = nearest
    one = np.flatnonzero(touch >= 0)
    other = touch[one]
    centre = point[one] + normal[one] * radius[one, None]
    a, b = point[one] - centre, point[other] - centre
    cosine = np.einsum("ni,ni->n", a, b) / np.maximum(radius[one] ** 2, 1e-18)
    width = np.linalg.norm(point[one] - point[other], axis=1)
    way = np.abs(samples.along[one] - samples.along[other])
    way = np.minimum(way, samples.length[one] - way)
    apart = (samples.contour[one] != samples.contour[other]) | (way > AROUND * width)
    facing = np.flatnonzero((cosine < FACING) & apart)
    found: list[Narrow] = []
    for i in facing[np.argsort(width[facing], kind="stable")].tolist():
        middle = (point[one[i]] + point[other[i]]) / 2
        if all(np.hypot(*(middle - n.at)) > 2 * max(n.width, width[i]) for n in found):
            found.append(Narrow(float(width[i]), (float(middle[0]), float(middle[1]))))
        if len(found) == many:
            break
    return tuple(found)
