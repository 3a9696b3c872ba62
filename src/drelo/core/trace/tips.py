"""Open lines among closed ones: run there and back they are closed, with a corner at each tip."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from drelo.core.trace.corners import Corners
from drelo.core.trace.level_lines import ClosedLines
from drelo.core.trace.samples import Samples

Array = NDArray[np.float64]

# A tip says nothing of the direction of its line within this many px.
TIP = 2.0


def there_and_back(lines: Sequence[Array], closed: NDArray[np.bool_]) -> ClosedLines:
    """Closed lines, shape (n, 2) each, as they are; open ones from one end to the other and back."""
    whole = [
        line if is_closed else np.concatenate([line, line[-2:0:-1]])
        for line, is_closed in zip(lines, closed.tolist(), strict=True)
    ]
    return ClosedLines(np.concatenate(whole), np.concatenate([[0], np.cumsum([len(p) for p in whole])]))


def with_tips(corners: Corners, samples: Samples, closed: NDArray[np.bool_]) -> Corners:
    """Corners of the closed lines and of the way there, and the tips of the open ones."""
    start, size = samples.starts[:-1], np.diff(samples.starts)
    line = samples.owner[corners.at]
    along = corners.at - start[line]
    apart = np.ceil(TIP / samples.step).astype(np.int64)
    stays = closed[line] | ((along > apart[line]) & (along < size[line] // 2 - apart[line]))
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
