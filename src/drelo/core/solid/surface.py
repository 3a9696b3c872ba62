"""The outer surface for the screen: one triangle soup, in runs by region and filament.

The cutting of tops and floors does not depend on heights, so that a new height only moves points.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from drelo.core.form.columns import Column
from drelo.core.region.arrangement import OUTSIDE, Arrangement
from drelo.core.solid.planar import borders, rings, straight_vertices
from drelo.core.solid.triangulate import triangulate

Indices = NDArray[np.int64]
NO_TOP = -1


@dataclass(frozen=True, eq=False)
class Plan:
    """What of the surface does not depend on heights.

    triangles: shape (t, 3, 2), mm; layer: shape (t,), sorted. walls: shape (w, 2, 2), mm, from start to end with layer
    `left` on the left and `right` on the right; OUTSIDE for none.
    """

    triangles: NDArray[np.float32]
    layer: Indices
    walls: NDArray[np.float32]
    left: Indices
    right: Indices


@dataclass(frozen=True)
class Run:
    """Triangles `start` to `start + count` belong to one layer and one filament."""

    layer: int
    filament: int
    start: int
    count: int


@dataclass(frozen=True, eq=False)
class Surface:
    """triangles: shape (t, 3, 3), float32, mm. runs: in order, they cover all triangles.

    tops: shape (n, 4): first triangle, how many, and the layers whose tops their lower and their upper corners lie on,
    NO_TOP for none. The triangles of a wall come in two halves: two lower corners and the upper one of the end, then a
    lower one and two upper ones (start, end, end; start, end, start).
    standing: from this triangle on there are only walls of no height.
    """

    triangles: NDArray[np.float32]
    runs: tuple[Run, ...]
    tops: Indices
    standing: int


def plan(a: Arrangement) -> Plan:
    """Tops and walls of an arrangement, by layer."""
    b = borders(a, a.top)
    r = rings(a, a.top, straight_vertices(a, b))
    triangles, layer = triangulate(a.vertices, r)
    order = np.argsort(layer, kind="stable")
    origin = a.vertices.min(axis=0)
    # Whole grid steps, which 32-bit floats hold exactly.
    points = ((a.vertices - origin) * a.grid).astype(np.float32)
    walls = np.stack([points[b.start], points[b.end]], axis=1)
    return Plan(points[triangles[order]], layer[order], walls, b.left, b.right)


class _Piece(NamedTuple):
    """What of a run has one way to stand: the flats of a layer at z, or the walls between two layers from z to z.

    under, over: the layers whose tops the lower and the upper end are.
    """

    layer: int
    filament: int
    wall: bool
    source: int
    low: float
    high: float
    flipped: bool
    under: int
    over: int


def surface(p: Plan, columns: tuple[Column, ...], owners: tuple[int, ...] = ()) -> Surface:
    """The surface with heights: tops and floors that are open to the air, and walls where a neighbour is lower.

    owners: the number of each layer's region; where those of two owners are level, a wall of no height is between them,
    so that one of them can be moved and no gap opens. None by default.
    """
    begin_flat = np.searchsorted(p.layer, np.arange(len(columns) + 1))
    order, begin_wall, sides = _pairs(p, len(columns))
    pieces = sorted([*_flats(columns), *_walls(sides, columns)])
    standing = len(pieces)
    pieces += sorted(_level(sides, columns, owners))
    source = np.array([piece.source for piece in pieces], np.int64)
    wall = np.array([piece.wall for piece in pieces], bool)
    begin, count = np.zeros(len(pieces), np.int64), np.zeros(len(pieces), np.int64)
    for kind, starts in ((~wall, begin_flat), (wall, begin_wall)):
        begin[kind], count[kind] = starts[source[kind]], np.diff(starts)[source[kind]]
    size = np.where(wall, 2 * count, count)
    at = np.concatenate([[0], np.cumsum(size)])
    low, high = (np.array([getattr(piece, end) for piece in pieces], np.float32) for end in ("low", "high"))
    flipped = np.array([piece.flipped for piece in pieces], bool)
    soup = np.empty((int(at[-1]), 3, 3), np.float32)

    which, row = _spread(np.flatnonzero(~wall), begin, count)
    flat = p.triangles[row]
    turned = flipped[which]
    flat[turned] = flat[turned, ::-1]
    place = at[which] + row - begin[which]
    soup[place, :, :2], soup[place, :, 2] = flat, low[which, None]

    which, row = _spread(np.flatnonzero(wall), begin, count)
    u, v = np.moveaxis(p.walls[order[row] % max(len(p.walls), 1)], 1, 0)
    turned = flipped[which, None]
    u, v = np.where(turned, v, u), np.where(turned, u, v)
    place = at[which] + row - begin[which]
    for first, corners in ((0, (u, v, v)), (1, (u, v, u))):
        heights = (low, low, high) if first == 0 else (low, high, high)
        here = place + first * count[which]
        for k in range(3):
            soup[here, k, :2], soup[here, k, 2] = corners[k], heights[k][which]
    under, over = (np.array([getattr(piece, end) for piece in pieces], np.int64) for end in ("under", "over"))
    tops = np.column_stack([at[:-1], size, under, over])
    return Surface(soup, _runs(pieces, size), tops, int(at[standing]))


def divided(s: Surface, owner: Indices) -> Surface:
    """The surface with its triangles in runs by owner, whose number stands for their layer. owner: shape (t,)."""
    filament = np.repeat([run.filament for run in s.runs], [run.count for run in s.runs])
    order = np.lexsort([filament, owner])
    kinds, first = np.unique(np.column_stack([owner, filament])[order], axis=0, return_index=True)
    ends = [*first[1:].tolist(), len(order)]
    runs = tuple(
        Run(own, material, begin, end - begin)
        for (own, material), begin, end in zip(kinds.tolist(), first.tolist(), ends, strict=True)
    )
    return Surface(s.triangles[order], runs, np.empty((0, 4), np.int64), len(order))


def _flats(columns: tuple[Column, ...]) -> Iterator[_Piece]:
    for layer, column in enumerate(columns):
        for i, band in enumerate(column):
            if i + 1 == len(column) or column[i + 1].bottom > band.top:
                own = layer if i + 1 == len(column) else NO_TOP
                yield _Piece(layer, band.filament, False, layer, band.top, band.top, False, own, own)
            if i == 0 or column[i - 1].top < band.bottom:
                yield _Piece(layer, band.filament, False, layer, band.bottom, band.bottom, True, NO_TOP, NO_TOP)


def _pairs(p: Plan, count: int) -> tuple[Indices, Indices, list[tuple[int, int, bool]]]:
    """Both sides of every wall, brought together by their two layers.

    The order in which wall sides are taken (those from `len(walls)` on are the other side), where each pair of layers
    begins in it, and for each pair its layer, its neighbour, and whether its walls run the other way.
    """
    own, other = np.concatenate([p.left, p.right]), np.concatenate([p.right, p.left])
    back = np.repeat([0, 1], len(p.walls))
    code = ((own + 1) * (count + 1) + other + 1) * 2 + back
    order = np.argsort(code, kind="stable")
    kinds, first = np.unique(code[order], return_index=True)
    sides = [(c // 2 // (count + 1) - 1, c // 2 % (count + 1) - 1, bool(c % 2)) for c in kinds.tolist()]
    return order, np.append(first, len(order)), sides


def _walls(sides: list[tuple[int, int, bool]], columns: tuple[Column, ...]) -> Iterator[_Piece]:
    # Many regions stand alike, so that few pairs of columns differ.
    kinds: dict[Column, int] = {}
    kind = [kinds.setdefault(column, len(kinds)) for column in columns]
    seen: dict[tuple[int, int], list[tuple[int, float, float]]] = {}
    for source, (layer, neighbour, back) in enumerate(sides):
        if layer == OUTSIDE:
            continue
        pair = (kind[layer], OUTSIDE if neighbour == OUTSIDE else kind[neighbour])
        if pair not in seen:
            hidden = columns[neighbour] if neighbour != OUTSIDE else ()
            bands = columns[layer]
            seen[pair] = [(b.filament, low, high) for b in bands for low, high in _open(b.bottom, b.top, hidden)]
        top, beside = columns[layer][-1:], columns[neighbour][-1:] if neighbour != OUTSIDE else ()
        for filament, low, high in seen[pair]:
            under = neighbour if beside and low == beside[0].top else NO_TOP
            over = layer if high == top[0].top else NO_TOP
            yield _Piece(layer, filament, True, source, low, high, back, under, over)


def _level(
    sides: list[tuple[int, int, bool]], columns: tuple[Column, ...], owners: tuple[int, ...]
) -> Iterator[_Piece]:
    """Walls of no height where the tops of two owners are level."""
    for source, (layer, neighbour, back) in enumerate(sides):
        if not owners or OUTSIDE in (layer, neighbour) or layer > neighbour or owners[layer] == owners[neighbour]:
            continue
        top, beside = columns[layer][-1:], columns[neighbour][-1:]
        if top and beside and top[0].top == beside[0].top:
            level = top[0].top
            yield _Piece(layer, top[0].filament, True, source, level, level, back, neighbour, layer)


def _spread(which: Indices, begin: Indices, count: Indices) -> tuple[Indices, Indices]:
    """For every row of the pieces named: its piece, and its number."""
    many = count[which]
    piece = np.repeat(which, many)
    within = np.arange(len(piece)) - np.repeat(np.cumsum(many) - many, many)
    return piece, begin[piece] + within


def _runs(pieces: list[_Piece], size: Indices) -> tuple[Run, ...]:
    runs = []
    at = 0
    for (layer, filament), group in itertools.groupby(
        zip(pieces, size.tolist(), strict=True), lambda pair: (pair[0].layer, pair[0].filament)
    ):
        many = sum(count for _, count in group)
        if many:
            runs.append(Run(layer, filament, at, many))
        at += many
    return tuple(runs)


def _open(low: float, high: float, hidden: Column) -> list[tuple[float, float]]:
    rest = [(low, high)]
    for band in hidden:
        rest = [
            piece
            for z0, z1 in rest
            for piece in ((z0, min(z1, band.bottom)), (max(z0, band.top), z1))
            if piece[1] > piece[0]
        ]
    return rest
