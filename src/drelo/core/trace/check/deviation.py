"""How far contours are from the lines that they were fitted to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.outline.chords import Grid, Meetings, chords_of, distances, grid_of
from drelo.core.outline.contour import Contour, flattened
from drelo.core.trace.seen.coverage import coverage
from drelo.core.trace.seen.level_lines import ClosedLines

Array = NDArray[np.float64]
Indices = NDArray[np.int64]

# Chord tolerance, px, at which contours are looked at.
CHORD = 0.002
# Every second px of a line and of a contour is looked at: no patch that counts is smaller.
EVERY = 2
# Distances are measured up to so many px.
REACH = 6.0
# Ink that is lost or added counts where a patch of at least so many px² lies further than this (px) from what it should
# be part of …
PATCH, BEYOND = 6, 1.0
# … and a line that is lost, however thin, where it is so far (px) from its contour: the level line of a tip ends short
# of it, but no contour ends short of its line.
LOST = 2.0
# … and an edge between two colours where it is so far (px) from its contour.
LOST_EDGE = 1.4
# A contour that strays so far (px) from its line is a spike, unless the picture shows a trace of ink all along it.
SPIKE = 4.0


@dataclass(frozen=True, eq=False)
class Deviation:
    """How far off contours are.

    off: shape (n,), px: how far points of the lines are from their contours, up to REACH; line: of which each is.
    spots: for each contour the points, shape (k, 3), where it fails, and by how much, px.
    """

    off: Array
    line: Indices
    spots: list[Array]


def grid_round(contours: Sequence[Contour]) -> Grid:
    """The chords of contours in a grid."""
    return grid_of(chords_of(flattened(contours, CHORD), [c.closed for c in contours]))


def deviation(
    contours: Sequence[Contour], homes: Sequence[Array], grid: Grid, allowed: float, inked: bool = True
) -> Deviation:
    """What of each contour is where its line is not, and the other way round.

    homes: the lines, shape (k, 2), px, one a contour. grid: of the contours' chords, px. allowed: px by which a setting
    lets contours be further off. inked: whether the lines are closed, round ink and holes.
    """
    if not homes:
        return Deviation(np.zeros(0), np.zeros(0, np.int64), [])
    points, owner = _together([home[::EVERY] for home in homes])
    seen = grid_of(chords_of(homes, [c.closed for c in contours]))
    return _deviation(grid, seen, points, owner, len(contours), allowed, inked)


def as_a_whole(contours: Sequence[Contour], lines: ClosedLines, allowed: float) -> Deviation:
    """What of closed contours is where no line is, and the other way round, whichever belongs to which.

    allowed: px by which a setting lets contours be further off.
    """
    made, seen = (
        grid_of(replace(chords, line=np.zeros(len(chords.line), np.int64)))
        for chords in (
            chords_of(flattened(contours, CHORD), [True] * len(contours)),
            chords_of(lines.moved((0.0, 0.0)), [True] * len(lines)),
        )
    )
    points = lines.points[::EVERY]
    return _deviation(made, seen, points, np.zeros(len(points), np.int64), 1, allowed, True)


def _deviation(
    grid: Grid, seen: Grid, points: Array, owner: Indices, count: int, allowed: float, inked: bool
) -> Deviation:
    off = _off(grid, points, owner)
    tried, back_owner = _along(grid)
    back = _off(seen, tried, back_owner)
    lost, strays = off > BEYOND + allowed, back > BEYOND + allowed
    bad, bad_back = off > (LOST if inked else LOST_EDGE) + allowed, back > SPIKE + allowed
    if inked and (lost.any() or strays.any()):
        places = np.concatenate([points[lost], tried[strays]])
        patches = _patches(grid, seen, places, BEYOND + allowed)
        bad |= lost & _near(points, patches, allowed)
        bad_back |= strays & _near(tried, patches, allowed)
    spots = [np.empty((0, 3))] * count
    for i in np.unique(np.concatenate([owner[bad], back_owner[bad_back]])).tolist():
        here, there = bad & (owner == i), bad_back & (back_owner == i)
        spots[i] = np.concatenate([_with(points, off, here), _with(tried, back, there)])
    return Deviation(off, owner, spots)


def failing(met: Meetings, off: Deviation) -> list[Array]:
    """Where each contour crosses, touches or strays, shape (k, 2)."""
    spots = [spot[:, :2] for spot in off.spots]
    for lines in (met.one, met.other):
        for i in np.unique(lines).tolist():
            spots[i] = np.concatenate([spots[i], met.at[lines == i]])
    return spots


def _off(grid: Grid, points: Array, owner: Indices) -> Array:
    """How far points are off their lines, up to REACH; most are near, and are looked for nearby first."""
    off = distances(grid, points, owner, BEYOND)
    far = np.flatnonzero(off >= BEYOND)
    off[far] = distances(grid, points[far], owner[far], REACH)
    return off


def _with(points: Array, off: Array, which: NDArray[np.bool_]) -> Array:
    return np.concatenate([points[which], off[which, None]], axis=1)


def _together(lines: Sequence[Array]) -> tuple[Array, Indices]:
    return np.concatenate(lines), np.repeat(np.arange(len(lines)), [len(line) for line in lines])


def _along(grid: Grid) -> tuple[Array, Indices]:
    """Points along all chords, at most EVERY px apart, and of which line each is."""
    c = grid.chords
    way = c.ends - c.starts
    many = np.ceil(np.linalg.norm(way, axis=1) / EVERY).astype(np.int64)
    number = np.repeat(np.arange(len(many)), many)
    share = (np.arange(len(number)) - np.repeat(np.cumsum(many) - many, many)) / many[number]
    return c.starts[number] + share[:, None] * way[number], c.line[number]


@dataclass(frozen=True, eq=False)
class _Patches:
    """Patches of pixels of which the ink is lost or added: flagged in a box at `corner` px."""

    flags: NDArray[np.bool_]
    corner: Array


def _patches(made: Grid, seen: Grid, places: Array, beyond: float) -> _Patches:
    corner = np.floor(places.min(axis=0)) - 2 * REACH
    width, height = (int(n) for n in np.ceil(places.max(axis=0)) + 2 * REACH - corner)
    ink = [
        (np.abs(coverage(g.chords.starts - corner, g.chords.ends - corner, width, height)) > 0.5).astype(np.uint8)
        for g in (made, seen)
    ]
    reach = int(np.ceil(beyond))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    flags = np.zeros((height, width), bool)
    for one, other in (ink, ink[::-1]):
        rest = np.asarray(one & (1 - np.asarray(cv2.dilate(other, disc), np.uint8)), np.uint8)
        if not rest.any():
            continue
        _, parts, stats, _ = cv2.connectedComponentsWithStats(rest, connectivity=8)
        large = stats[:, cv2.CC_STAT_AREA] >= PATCH
        large[0] = False
        flags |= large[parts]
    return _Patches(flags, corner)


def _near(points: Array, patches: _Patches, allowed: float) -> NDArray[np.bool_]:
    """Which points lie beside a patch."""
    if not patches.flags.any():
        return np.zeros(len(points), bool)
    reach = int(np.ceil(BEYOND + allowed)) + 2
    wide = cv2.dilate(patches.flags.astype(np.uint8), np.ones((2 * reach + 1, 2 * reach + 1), np.uint8))
    height, width = wide.shape
    x, y = (points - patches.corner).astype(np.int64).T
    inside = (x >= 0) & (y >= 0) & (x < width) & (y < height)
    return np.asarray(inside & (wide[np.clip(y, 0, height - 1), np.clip(x, 0, width - 1)] > 0))
