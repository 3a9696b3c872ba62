"""Tips of slivers that end between two other colours.

Where an area is thinner than some two pixels none of them shows its colour, and its labels end there. How its width
falls off before tells where it ends.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from drelo.core.trace.colours.arcs import OUTSIDE, Arcs

Array = NDArray[np.float64]
Pixels = NDArray[np.float32]

# An area is believed from this width (px) on; coded pictures, which keep colour coarsely, from the second.
BELIEVED, BELIEVED_CODED = 2.5, 4.0
# Its width is followed up to this much, px, and over so many px.
WIDEST, FARTHEST = 9.0, 60.0
# An arc has at most two points a px: more of them are not looked at.
LOOKED_AT = 300
# It falls off by this much a px: what does so less is a line that ends, what does so more loses no tip.
LEAST_TAPER, MOST_TAPER = 0.03, 0.6
# Fewer points than this say nothing of a width, nor do widths that stray further (px) from falling off evenly.
FEWEST, STRAY = 14, 0.35
# A tip goes at most this far (px), and over at most this share of the edge that it runs along.
REACH, SHARE = 45.0, 0.7
# The edge beyond the tip is looked at over so many px.
BEYOND = 15.0
# Between the labels' end and the tip at least this share of the colour must be seen that the tip would hold; it is
# looked for so far to both sides, px, where the colours can be told apart (sine of the angle between their steps).
SEEN, ASIDE, TOLD_APART = 0.5, 4.0, 0.15


@dataclass(frozen=True)
class _End:
    """An arc as it leaves a junction."""

    arc: int
    last: bool
    left: int
    right: int


def with_sliver_tips(arcs: Arcs, pixels: Pixels, palette: Array, coded: bool = False) -> Arcs:
    """Arcs whose slivers go on to where their two sides meet; the junctions there move along the edge beyond.

    pixels, palette: as they mix at edges, both in the same coordinates.
    """
    lines = [arcs.points[a:b] for a, b in zip(arcs.starts[:-1], arcs.starts[1:], strict=True)]
    junctions = arcs.junctions.copy()
    believed = BELIEVED_CODED if coded else BELIEVED
    for junction, ends in _threes(arcs):
        tip = _tip([_leaving(lines, e) for e in ends], ends, believed)
        if tip is not None and _is_seen(tip, pixels, palette):
            junctions[junction] = tip.place
            for end, line in zip(ends, tip.lines, strict=True):
                lines[end.arc] = line[::-1] if end.last else line
    starts = np.concatenate([[0], np.cumsum([len(line) for line in lines])])
    return replace(arcs, points=np.concatenate(lines), starts=starts, junctions=junctions)


def _threes(arcs: Arcs) -> list[tuple[int, list[_End]]]:
    """Junctions in which three arcs meet, none of them the border."""
    at: dict[int, list[_End]] = {}
    for a in np.flatnonzero(~arcs.closed).tolist():
        left, right = int(arcs.left[a]), int(arcs.right[a])
        at.setdefault(int(arcs.ends[a, 0]), []).append(_End(a, False, left, right))
        at.setdefault(int(arcs.ends[a, 1]), []).append(_End(a, True, right, left))
    return [
        (junction, ends)
        for junction, ends in at.items()
        if len(ends) == 3 and len({e.arc for e in ends}) == 3 and all(OUTSIDE not in (e.left, e.right) for e in ends)
    ]


def _leaving(lines: list[Array], end: _End) -> Array:
    return lines[end.arc][::-1] if end.last else lines[end.arc]


@dataclass(frozen=True, eq=False)
class _Taper:
    """How the two sides of a sliver come together towards a junction.

    fall: px of width a px of way. further: how far beyond the junction they meet, px. first, beside: the points of the
    two sides from which on they are believed. way, middle: of the believed points, from the junction, and between.
    """

    fall: float
    further: float
    first: int
    beside: int
    way: Array
    middle: Array


@dataclass(frozen=True, eq=False)
class _Tip:
    """Where the sides meet, and the three arcs as they leave that place.

    hidden: rows of x, y, width from the tip to where the labels ended. colours: of the sliver, and to both its sides.
    """

    place: Array
    lines: list[Array]
    hidden: Array
    colours: tuple[int, int, int]


def _tip(lines: list[Array], ends: list[_End], believed: float) -> _Tip | None:
    """The tip of the one of the three areas round a junction that is a sliver there."""
    for i in range(3):
        j, k = (i + 1) % 3, (i + 2) % 3
        one, other = (j, k) if ends[j].left == ends[k].right else (k, j)
        taper = _taper(lines[one], lines[other], believed) if ends[one].left == ends[other].right else None
        if taper is None or taper.further > min(REACH, SHARE * _along(lines[i][:LOOKED_AT])[-1]):
            continue
        run, centre, across, beyond = _drawn_on(taper, lines[i])
        if (lines[one][taper.first] - taper.middle[0]) @ across[-1] < 0:
            across = -across
        changed = list(lines)
        changed[one] = np.concatenate([(centre + across)[1:], lines[one][taper.first :]])
        changed[other] = np.concatenate([(centre - across)[1:], lines[other][taper.beside :]])
        changed[i] = beyond
        hidden = np.column_stack([centre, taper.fall * (taper.further - run)])[run > 0]
        return _Tip(centre[0], changed, hidden, (ends[one].left, ends[one].right, ends[other].left))
    return None


def _along(line: Array) -> Array:
    return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])


def _taper(one: Array, other: Array, believed: float) -> _Taper | None:
    """How two sides come together that leave a junction; None where they do not, or too unevenly to tell."""
    one, other = one[:LOOKED_AT], other[:LOOKED_AT]
    if min(len(one), len(other)) < FEWEST or np.hypot(*(one[FEWEST - 1] - other[FEWEST - 1])) > FEWEST * MOST_TAPER:
        return None
    way, back = _along(one), _along(other)
    way = way[way <= min(FARTHEST, way[-1] / 2)]
    facing = other[back <= min(FARTHEST, back[-1] / 2) * 1.2]
    if min(len(way), len(facing)) < FEWEST:
        return None
    apart = np.hypot(*(one[: len(way), None] - facing[None]).transpose(2, 0, 1))
    opposite, width = apart.argmin(axis=1), apart.min(axis=1)
    wide, over = np.flatnonzero(width >= believed), np.flatnonzero(width > WIDEST)
    first, end = int(wide[0]) if len(wide) else len(way), int(over[0]) if len(over) else len(way)
    if end - first < FEWEST:
        return None
    sure = slice(first, end)
    fall, there = np.polyfit(way[sure], width[sure], 1)
    stray = float(np.sqrt(np.mean((width[sure] - there - fall * way[sure]) ** 2)))
    if not LEAST_TAPER < fall < MOST_TAPER or stray > STRAY or there <= 0:
        return None
    middle = (one[sure] + facing[opposite[sure]]) / 2
    return _Taper(float(fall), float(there / fall), first, int(opposite[first]), way[sure], middle)


def _drawn_on(taper: _Taper, edge: Array) -> tuple[Array, Array, Array, Array]:
    """From the tip to where the sides are believed: the way beyond the junction (negative before it), the middle, and
    from there to one side; and what is left of the edge beyond the tip.

    The middle runs from between the believed sides into the edge beyond the tip, which both tell of.
    """
    ahead = _along(edge[:LOOKED_AT])
    tail = (ahead >= taper.further) & (ahead <= taper.further + BEYOND)
    u = np.concatenate([-taper.way, ahead[tail]])
    bend = np.polyfit(u, np.concatenate([taper.middle, edge[:LOOKED_AT][tail]]), 2 if tail.sum() > 2 else 1)
    run: Array = np.arange(taper.further, -float(taper.way[0]), -1.0)
    centre = np.stack([np.polyval(bend[:, k], run) for k in range(2)], axis=1)
    heading = np.stack([np.polyval(np.polyder(bend[:, k]), run) for k in range(2)], axis=1)
    heading /= np.maximum(np.hypot(*heading.T), 1e-9)[:, None]
    half = taper.fall * (taper.further - run) / 2
    across = np.stack([-heading[:, 1], heading[:, 0]], axis=1) * half[:, None]
    return run, centre, across, edge[int((ahead <= taper.further).sum()) :]


def _is_seen(tip: _Tip, pixels: Pixels, palette: Array) -> bool:
    """Whether the pixels show the sliver's colour where its tip was drawn: a blunt end shows none."""
    if len(tip.hidden) < 2:
        return True
    own, one, other = (palette[k] for k in tip.colours)
    steps = np.stack([other - one, own - one], axis=1)
    sizes = np.linalg.norm(steps, axis=0)
    if abs(steps[:, 0] @ steps[:, 1]) > np.sqrt(1 - TOLD_APART**2) * sizes.prod():
        return True
    centre = tip.hidden[:, :2]
    heading = np.gradient(centre, axis=0)
    heading /= np.maximum(np.hypot(*heading.T), 1e-9)[:, None]
    aside = np.arange(-ASIDE, ASIDE + 0.25, 0.5)
    x = (centre[:, :1] - aside * heading[:, 1:]).astype(np.int64).clip(0, pixels.shape[1] - 1)
    y = (centre[:, 1:] + aside * heading[:, :1]).astype(np.int64).clip(0, pixels.shape[0] - 1)
    mixed = pixels[y, x].mean(axis=(0, 1), dtype=np.float64) - one
    share = float(np.linalg.lstsq(steps, mixed, rcond=None)[0][1])
    return share * 2 * ASIDE > SEEN * float(tip.hidden[:, 2].mean())
