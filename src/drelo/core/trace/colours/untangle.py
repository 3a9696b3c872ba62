"""Fitted arcs that cross or touch, or miss their pixels, follow their pixels there: the edges of pixels never cross."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from drelo.core.outline.chords import meetings
from drelo.core.outline.contour import Contour
from drelo.core.trace.check.check import check_of
from drelo.core.trace.check.deviation import deviation, failing, grid_round
from drelo.core.trace.check.homeward import all_along, ended, near_home
from drelo.core.trace.colours.arcs import Arcs
from drelo.core.trace.trace import Check

Array = NDArray[np.float64]

# An arc that crosses others follows its pixels within this many px of where it does, one after the other; from the
# second on the junctions there are where the pixels have them, too.
WINDOWS = (4.0, 4.0, 12.0, 40.0)
# Where that does not do, all of it does: its lines keep within so many px of the pixels, and begin this far (px) from
# junctions, which were moved.
ROUGHLY = ((0.5, 0.0), (0.0, 0.0), (0.0, 1.5), (0.0, 3.0))
ROUNDS = len(WINDOWS) + 2 * len(ROUGHLY) + 1


def untangled(
    found: Sequence[Contour], arcs: Arcs, offset: tuple[float, float], allowed: float
) -> tuple[list[Contour], Check]:
    """One contour an arc, so that none crosses another or itself, and no two areas overlap.

    found: fitted ones, moved by `offset` px against the arcs; those that meet at a junction end in the same point.
    allowed: px by which a setting lets them be further from their pixels.
    """
    result = list(found)
    homes = arcs.junctions + np.array(offset)
    lines = [arcs.points[a:b] + np.array(offset) for a, b in zip(arcs.starts[:-1], arcs.starts[1:], strict=True)]
    tried = np.zeros(len(result), np.int64)
    for _ in range(ROUNDS):
        grid = grid_round(result)
        met = meetings(grid, at_ends=True)
        whole = [
            h if c.closed else np.concatenate([c.curves[:1, 0], h, c.curves[-1:, 3]])
            for c, h in zip(result, lines, strict=True)
        ]
        off = deviation(result, whole, grid, allowed, inked=False)
        spots = failing(met, off)
        tangled = np.array([len(s) > 0 for s in spots], bool)
        fresh = np.flatnonzero(tangled & (tried < len(WINDOWS) + len(ROUGHLY)) & ~arcs.border)
        if not len(fresh):
            break
        home: dict[int, float] = {}
        for a in fresh.tolist():
            if tried[a] >= len(WINDOWS):
                result[a] = all_along(result[a], lines[a], *ROUGHLY[tried[a] - len(WINDOWS)])
                continue
            window = WINDOWS[tried[a]]
            result[a] = near_home(result[a], whole[a], spots[a], window)
            for junction in arcs.ends[a].tolist() if tried[a] and not arcs.closed[a] else ():
                if np.linalg.norm(spots[a] - homes[junction], axis=1).min() < window:
                    home[junction] = window
        for junction, window in home.items():
            for a, end in np.argwhere(arcs.ends == junction).tolist():
                if not arcs.border[a]:
                    result[a] = near_home(result[a], whole[a], homes[junction][None], window)
                result[a] = ended(result[a], end, homes[junction])
        tried[fresh] += 1
    # Along the border of the picture nothing was seen.
    seen = replace(off, off=off.off[~arcs.border[off.line]])
    return result, check_of(int(np.count_nonzero(tried)), len(met), seen)


def _between_ends(contour: Contour, line: Array) -> Array:
    """Points of the edges of pixels, and of an open contour its ends."""
    if contour.closed:
        return line
    return np.concatenate([contour.curves[:1, 0], line, contour.curves[-1:, 3]])
