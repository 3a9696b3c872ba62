"""Open lines among closed ones: run there and back they are closed, with a corner at each tip."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from drelo.core.near import points_tree
from drelo.core.trace.corners.corners import Corners
from drelo.core.trace.seen.level_lines import ClosedLines
from drelo.core.trace.seen.samples import Samples, calmed

Array = NDArray[np.float64]

# A tip says nothing of the direction of its line within this many px.
TIP = 2.0
# A corner no further (px) from where one is known is that one.
SAME = 1.0


def there_and_back(lines: Sequence[Array], closed: NDArray[np.bool_]) -> ClosedLines:
    """Closed lines, shape (n, 2) each, as they are; open ones from one end to the other and back."""
    whole = [
        line if is_closed else np.concatenate([line, line[-2:0:-1]])
        for line, is_closed in zip(lines, closed.tolist(), strict=True)
    ]
    return ClosedLines(np.concatenate(whole), np.concatenate([[0], np.cumsum([len(p) for p in whole])]))


def on_the_way_there(samples: Samples) -> NDArray[np.bool_]:
    """Which samples of lines that run there and back lie on the way there."""
    along = np.arange(len(samples.points)) - samples.starts[samples.owner]
    return np.asarray(2 * along < np.diff(samples.starts)[samples.owner])


def calmed_between_tips(samples: Samples, closed: NDArray[np.bool_], sigma: float) -> Samples:
    """The samples averaged along their lines as by `calmed`; towards the tips of open lines less and less."""
    calm = calmed(samples, sigma)
    size = np.diff(samples.starts)[samples.owner]
    along = np.arange(len(samples.points)) - samples.starts[samples.owner]
    # Of the way there and back one tip is the first sample, the other the one in the middle.
    steps = np.minimum(np.minimum(along, size - along), np.abs(along - size // 2))
    share = np.where(closed[samples.owner], 1.0, np.clip(steps * samples.step[samples.owner] / (2 * sigma), 0, 1))
    return replace(calm, points=samples.points + share[:, None] * (calm.points - samples.points))


def with_tips(corners: Corners, samples: Samples, closed: NDArray[np.bool_], known: Array | None = None) -> Corners:
    """Corners of the closed lines and of the way there, and the tips of the open ones.

    known: shape (n, 2), px, where corners are sure; these stay near a tip, too.
    """
    start, size = samples.starts[:-1], np.diff(samples.starts)
    line = samples.owner[corners.at]
    along = corners.at - start[line]
    apart = np.ceil(TIP / samples.step).astype(np.int64)
    stays = closed[line] | ((along > apart[line]) & (along < size[line] // 2 - apart[line]))
    if known is not None:
        sure = points_tree(known).query(corners.position)[0] < SAME
        for tip in (start, start + size // 2):
            sure &= np.linalg.norm(corners.position - samples.points[tip[line]], axis=1) > TIP
        stays |= sure & (along > 0) & (along < size[line] // 2)
    open_ = np.flatnonzero(~closed)
    reach = np.minimum(apart, np.maximum(size // 2 - 1, 1))[open_]
    first, last = start[open_], start[open_] + size[open_] // 2
    away = samples.points[first + reach] - samples.points[first]
    towards = samples.points[last] - samples.points[last - reach]
    away, towards = (v / np.maximum(np.linalg.norm(v, axis=1, keepdims=True), 1e-9) for v in (away, towards))
    at = np.concatenate([corners.at[stays], first, last])
    order = np.argsort(at, kind="stable")
    return Corners(
        at[order],
        np.concatenate([corners.position[stays], samples.points[first], samples.points[last]])[order],
        np.concatenate([corners.before[stays], -away, towards])[order],
        np.concatenate([corners.after[stays], away, -towards])[order],
    )
