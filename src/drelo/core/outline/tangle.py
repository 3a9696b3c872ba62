"""How often lines cross, told before areas are made of them: that costs time and memory for every crossing."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour
from drelo.core.outline.cubics import basis

# Drawings that cross themselves more often than this cannot be worked with.
MAX_CROSSINGS = 250_000
# Fewer segments cannot cross so often.
FEW = 500
# A curve counts as so many chords; so many of all chords are held against so many others.
CHORDS, SOME, OTHERS = 3, 150, 5_000
# A few crossings found by chance say nothing.
LEAST = 10


def refuse_tangled(contours: Iterable[Contour], field: str = "") -> None:
    """Raises Refusal when contours cross themselves and each other too often to be made into areas.

    Of many chords only some are looked at, so that the number is an estimate; always the same of the same drawing.
    """
    contours = list(contours)
    if sum(len(c) for c in contours) < FEW:
        return
    starts, ends = _chords(np.concatenate([c.curves for c in contours]))
    crossings = estimated_crossings(starts, ends)
    if crossings > MAX_CROSSINGS:
        raise Refusal("outline.too-many-crossings", field, crossings=_rounded(crossings), most=MAX_CROSSINGS)


def estimated_crossings(starts: NDArray[np.float64], ends: NDArray[np.float64]) -> float:
    """About how often straight pieces, shape (n, 2) each, cross or lie on one another."""
    count = len(starts)
    random = np.random.default_rng(0)
    some = np.sort(random.permutation(count)[:SOME])
    others = np.sort(random.permutation(count)[:OTHERS])
    a, b = starts[some, None], ends[some, None]
    c, d = starts[None, others], ends[None, others]
    near = (np.minimum(a, b) <= np.maximum(c, d)).all(axis=2) & (np.minimum(c, d) <= np.maximum(a, b)).all(axis=2)
    meets = near & (_side(a, b, c) * _side(a, b, d) <= 0) & (_side(c, d, a) * _side(c, d, b) <= 0)
    # Neighbours share one end, and meet there without crossing.
    shared = sum((p == q).all(axis=2).astype(np.int8) for p in (a, b) for q in (c, d))
    crosses = meets & (shared != 1) & (some[:, None] != others[None, :])
    found = np.count_nonzero(crosses)
    return 0.0 if found < LEAST else float(found) * (count / len(some)) * (count / len(others)) / 2


def _chords(curves: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    on = np.einsum("ki,nij->nkj", basis(np.linspace(0, 1, CHORDS + 1)), curves)
    return on[:, :-1].reshape(-1, 2), on[:, 1:].reshape(-1, 2)


def _side(a: NDArray[np.float64], b: NDArray[np.float64], p: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(
        (b[..., 0] - a[..., 0]) * (p[..., 1] - a[..., 1]) - (b[..., 1] - a[..., 1]) * (p[..., 0] - a[..., 0])
    )


def _rounded(number: float) -> str:
    digits = 10 ** (len(str(int(number))) - 2)
    return f"{round(number / digits) * digits:,}"
