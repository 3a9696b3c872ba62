"""Closed contours that cross, touch or miss their lines are led along them: no trace leaves with one that does.

Level lines never cross. So it is done more and more plainly: near where it fails, then farther round, then all along.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from drelo.core.near import points_tree
from drelo.core.outline.chords import meetings
from drelo.core.outline.contour import Contour
from drelo.core.trace.check.check import check_of
from drelo.core.trace.check.deviation import deviation, failing, grid_round
from drelo.core.trace.check.homeward import near_home, ring
from drelo.core.trace.contours.fit import through
from drelo.core.trace.seen.level_lines import ClosedLines
from drelo.core.trace.trace import Check

Array = NDArray[np.float64]

# One after the other: within so many px of where it fails, curves that keep so near (px) to the line, or (0) the line.
STEPS = ((3.0, 0.15), (5.0, 0.0), (12.0, 0.1), (12.0, 0.0), (40.0, 0.0))
# Then all along: curves that keep so near (px) to the line, and the line itself.
WHOLE = (0.1, 0.0)
# Places nearer to each other than this (px) are one that failed again.
SAME = 6.0
ROUNDS = 16
# A contour that fails in a later round than this does not get away with patches.
PATIENCE = 7


def mended(found: Sequence[Contour], homes: Sequence[Array], allowed: float) -> tuple[list[Contour], Check]:
    """Closed contours so that none crosses or touches another or itself, nor strays from its line.

    homes: the line of each, shape (k, 2), px, in the order in which it runs. allowed: px by which a setting lets
    contours be further off.
    """
    result = list(found)
    tried = [_Tried() for _ in result]
    for turn in range(ROUNDS):
        grid = grid_round(result)
        met = meetings(grid)
        off = deviation(result, homes, grid, allowed)
        spots = failing(met, off)
        fails = [i for i, some in enumerate(spots) if len(some) and tried[i].step < LAST]
        if not fails:
            break
        for i in fails:
            result[i] = tried[i].again(result[i], homes[i], spots[i], turn > PATIENCE)
    return result, check_of(sum(t.step >= 0 for t in tried), len(met), off)


LAST = len(STEPS) + len(WHOLE) - 1


class _Tried:
    """What was tried for one contour, and where."""

    def __init__(self) -> None:
        self.step = -1
        self.places = np.empty((0, 2))
        self.steps = np.empty(0, np.int64)

    def again(self, now: Contour, home: Array, spots: Array, hurry: bool) -> Contour:
        """The contour led along its home where it fails: a step more plainly than what failed there before."""
        steps = np.zeros(len(spots), np.int64)
        if len(self.places):
            near = points_tree(self.places).within(spots, SAME)
            steps = np.array([int(self.steps[k].max()) + 1 if len(k) else 0 for k in near])
        self.step = max(self.step + 1 if hurry else 0, int(steps.max()))
        if self.step >= len(STEPS):
            tolerance = WHOLE[min(self.step, LAST) - len(STEPS)]
            self.step = max(self.step, len(STEPS))
            # One place that nothing helped: from now on it is all or nothing.
            self.places, self.steps = home, np.full(len(home), self.step)
            return _through(home, tolerance) if tolerance else ring(home)
        self.places = np.concatenate([self.places, spots])
        self.steps = np.concatenate([self.steps, steps])
        for step in np.unique(steps).tolist():
            radius, tolerance = STEPS[step]
            now = near_home(now, home, spots[steps == step], radius, tolerance)
        return now


def _through(home: Array, tolerance: float) -> Contour:
    return through(ClosedLines(home, np.array([0, len(home)])), tolerance)[0]
