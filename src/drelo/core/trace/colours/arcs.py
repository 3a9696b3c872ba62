"""A map of labels as one planar graph: arcs between junctions, each shared by the two areas beside it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.errors import Refusal

Labels = NDArray[np.int16]
Pixels = NDArray[np.float32]
Array = NDArray[np.float64]
Indices = NDArray[np.int64]

# What lies beyond the picture.
OUTSIDE = -1
# Directions along the sides of pixels: right, down, left, up.
STEP = np.array([[0, 1], [1, 0], [0, -1], [-1, 0]])
# An edge between two pixels stays this far (share of a pixel) from their centres.
INNER = 0.03
MAX_ARCS = 60_000


@dataclass(frozen=True, eq=False)
class Arcs:
    """Runs of pixel sides along which the same two labels meet.

    points: shape (n, 2), px: where the edge lies between the two pixels of each side, arcs end to end.
    starts: shape (arcs + 1,).
    left, right: shape (arcs,): labels beside each as it runs, seen on the screen (y down).
    closed: shape (arcs,): those that meet no junction.
    ends: shape (arcs, 2): numbers of the junctions at both ends; -1 when closed.
    junctions: shape (j, 2), px.
    loops: cycles of arcs round each area, the area on the left: number of the arc, and whether it runs backward.
    """

    points: Array
    starts: Indices
    left: Indices
    right: Indices
    closed: NDArray[np.bool_]
    ends: Indices
    junctions: Array
    loops: tuple[tuple[tuple[int, bool], ...], ...]

    def __len__(self) -> int:
        return len(self.left)

    def transformed(self, scale: float) -> Arcs:
        """In another unit."""
        return replace(self, points=self.points * scale, junctions=self.junctions * scale)

    @property
    def border(self) -> NDArray[np.bool_]:
        """Arcs along the border of the picture."""
        return np.asarray((self.left == OUTSIDE) | (self.right == OUTSIDE))


def find_arcs(
    labels: Labels, pixels: Pixels, palette: Array, groups: Indices, thin: NDArray[np.bool_] | None = None
) -> Arcs:
    """Arcs of a label map, shape (height, width).

    pixels, palette: as they mix at edges; they say where between two pixels an edge lies.
    groups: shape (labels,): labels of one group are one area; no loop runs between them.
    thin: shape (height, width): pixels of lines that hang together by the corners of their pixels.

    Raises Refusal when there are more arcs than can be worked with.
    """
    thin = np.zeros(labels.shape, bool) if thin is None else thin
    points, starts, sides, closed, where, heading = _walk(labels, pixels, palette, thin, *_busy(labels))
    if len(closed) > MAX_ARCS:
        raise Refusal("trace.too-many-edges", "speck", count=len(closed), most=MAX_ARCS)
    spots, number = np.unique(where[~closed].ravel(), return_inverse=True)
    ends = np.full((len(closed), 2), -1)
    ends[~closed] = number.reshape(-1, 2)
    rows, columns = np.divmod(spots, labels.shape[1] + 1)
    junctions = np.stack([columns, rows], axis=1).astype(np.float64)
    # What lies outside counts as a group of its own.
    group = np.append(groups, OUTSIDE)
    loops = _loops(closed, where, heading, group[sides[:, 0]] != group[sides[:, 1]])
    return Arcs(points, starts, sides[:, 0], sides[:, 1], closed, ends, junctions, loops)


@compiled
def _at(labels: Labels, y: int, x: int) -> int:
    if 0 <= y < labels.shape[0] and 0 <= x < labels.shape[1]:
        return int(labels[y, x])
    return OUTSIDE


@compiled
def _beside(y: int, x: int, direction: int) -> tuple[int, int, int, int]:
    """Rows and columns of the pixels to the left and to the right of a step from a pixel's corner."""
    if direction == 0:
        return y - 1, x, y, x
    if direction == 1:
        return y, x, y, x - 1
    if direction == 2:
        return y, x - 1, y - 1, x - 1
    return y - 1, x - 1, y - 1, x


@compiled
def _is_side(labels: Labels, y: int, x: int, direction: int) -> bool:
    ly, lx, ry, rx = _beside(y, x, direction)
    return _at(labels, ly, lx) != _at(labels, ry, rx)


@compiled
def _away(pixels: Pixels, y: int, x: int, palette: Array, k: int) -> float:
    total = 0.0
    for c in range(pixels.shape[2]):
        mean = (pixels[y - 1, x - 1, c] + pixels[y - 1, x, c] + pixels[y, x - 1, c] + pixels[y, x, c]) / 4
        total += (mean - palette[k, c]) ** 2
    return total


@compiled
def _onward(
    labels: Labels, pixels: Pixels, palette: Array, thin: NDArray[np.bool_], y: int, x: int, heading: int
) -> int:
    """Direction in which a run goes on at a pixel's corner; -1 at a junction."""
    count, other = 0, -1
    for d in range(4):
        if _is_side(labels, y, x, d):
            count += 1
            if d != (heading + 2) % 4:
                other = d
    if count == 2:
        return other
    a, b = _at(labels, y - 1, x - 1), _at(labels, y - 1, x)
    c, e = _at(labels, y, x - 1), _at(labels, y, x)
    if count == 4 and a != OUTSIDE and b != OUTSIDE and c != OUTSIDE and e != OUTSIDE:
        back = (heading + 2) % 4
        one, other = a == e, b == c
        if one and other:
            # Two labels cross: the one that the middle looks like is joined, the corners of the other are cut off.
            one = _away(pixels, y, x, palette, a) < _away(pixels, y, x, palette, b)
            other = not one
        else:
            # A line parts the two others.
            one = one and thin[y - 1, x - 1] and thin[y, x]
            other = other and thin[y - 1, x] and thin[y, x - 1]
        if one:
            return 3 - back
        if other:
            return (5 - back) % 4
    return -1


@compiled
def _edge(labels: Labels, pixels: Pixels, palette: Array, y: int, x: int, d: int) -> tuple[float, float]:
    """Where the edge lies between the two pixels beside a step."""
    ly, lx, ry, rx = _beside(y, x, d)
    left, right = _at(labels, ly, lx), _at(labels, ry, rx)
    if left == OUTSIDE or right == OUTSIDE:
        return x + STEP[d, 1] / 2, y + STEP[d, 0] / 2
    from_left = from_right = length = 0.0
    for c in range(pixels.shape[2]):
        step = palette[right, c] - palette[left, c]
        from_left += (pixels[ly, lx, c] - palette[left, c]) * step
        from_right += (pixels[ry, rx, c] - palette[left, c]) * step
        length += step * step
    f, g = from_left / length, from_right / length
    t = 0.5
    if g > f:
        t = min(max((0.5 - f) / (g - f), INNER), 1 - INNER)
    return lx + 0.5 + t * (rx - lx), ly + 0.5 + t * (ry - ly)


def _busy(labels: Labels) -> tuple[Indices, int]:
    """Corners of pixels (row · (width + 1) + column) at which sides meet, and how many sides there are."""
    padded = np.pad(labels, 1, constant_values=OUTSIDE)
    across = padded[1:, 1:-1] != padded[:-1, 1:-1]
    down = padded[1:-1, 1:] != padded[1:-1, :-1]
    busy = np.zeros((labels.shape[0] + 1, labels.shape[1] + 1), bool)
    for part, sides in ((busy[:, 1:], across), (busy[:, :-1], across), (busy[1:], down), (busy[:-1], down)):
        part |= sides
    return np.flatnonzero(busy), int(np.count_nonzero(across) + np.count_nonzero(down))


@compiled
def _walk(
    labels: Labels, pixels: Pixels, palette: Array, thin: NDArray[np.bool_], busy: Indices, total: int
) -> tuple[Array, Indices, Indices, NDArray[np.bool_], Indices, Indices]:
    height, width = labels.shape
    seen = np.zeros((height + 1, width + 1, 4), np.bool_)
    points = np.empty((total, 2))
    starts = np.zeros(total + 1, np.int64)
    sides = np.empty((total, 2), np.int64)
    closed = np.empty(total, np.bool_)
    where = np.empty((total, 2), np.int64)
    heading = np.empty((total, 2), np.int64)
    arcs = done = 0
    for turn in range(2):
        for corner in busy:
            y, x = corner // (width + 1), corner % (width + 1)
            if turn == 0 and _onward(labels, pixels, palette, thin, y, x, 0) >= 0:
                continue
            for first in range(4):
                if seen[y, x, first] or not _is_side(labels, y, x, first):
                    continue
                # In the first turn only junctions begin an arc; a corner with no sides is none.
                v, u, d = y, x, first
                while True:
                    points[done, 0], points[done, 1] = _edge(labels, pixels, palette, v, u, d)
                    done += 1
                    seen[v, u, d] = True
                    v, u = v + STEP[d, 0], u + STEP[d, 1]
                    seen[v, u, (d + 2) % 4] = True
                    onward = _onward(labels, pixels, palette, thin, v, u, d)
                    if onward < 0 or seen[v, u, onward]:
                        break
                    d = onward
                ly, lx, ry, rx = _beside(y, x, first)
                sides[arcs, 0], sides[arcs, 1] = _at(labels, ly, lx), _at(labels, ry, rx)
                closed[arcs] = turn == 1
                where[arcs, 0], where[arcs, 1] = y * (width + 1) + x, v * (width + 1) + u
                heading[arcs, 0], heading[arcs, 1] = first, d
                arcs += 1
                starts[arcs] = done
    return points, starts[: arcs + 1], sides[:arcs], closed[:arcs], where[:arcs], heading[:arcs]


def _loops(
    closed: NDArray[np.bool_], where: Indices, heading: Indices, parts: NDArray[np.bool_]
) -> tuple[tuple[tuple[int, bool], ...], ...]:
    leaving: dict[tuple[int, int], tuple[int, bool]] = {}
    for arc in np.flatnonzero(~closed & parts).tolist():
        leaving[int(where[arc, 0]), int(heading[arc, 0])] = (arc, False)
        leaving[int(where[arc, 1]), (int(heading[arc, 1]) + 2) % 4] = (arc, True)
    loops: list[tuple[tuple[int, bool], ...]] = []
    for arc in np.flatnonzero(closed & parts).tolist():
        loops += [((arc, False),), ((arc, True),)]
    used: set[tuple[int, bool]] = set()
    for begin in leaving.values():
        if begin in used:
            continue
        loop = []
        at = begin
        while at not in used:
            used.add(at)
            loop.append(at)
            arc, backward = at
            spot = int(where[arc, 0 if backward else 1])
            towards = (int(heading[arc, 0]) + 2) % 4 if backward else int(heading[arc, 1])
            # The leftmost way on keeps the area on the left.
            at = next(leaving[spot, d % 4] for d in (towards + 3, towards, towards + 1) if (spot, d % 4) in leaving)
        loops.append(tuple(loop))
    return tuple(loops)
