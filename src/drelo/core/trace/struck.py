"""Rings round what was left out of a trace, for the view to strike it out."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

# At most so many are handed over, the largest of them.
MAX_LOST = 600
# A pixel is drawn as so many, so that a ring goes round it and not through its middle.
DRAWN = 3


def rings_round(
    gone: NDArray[np.bool_], fine: float = 1.0, offset: tuple[float, float] = (0.0, 0.0)
) -> tuple[NDArray[np.float64], ...]:
    """Rings (n, 2), px of the whole picture, round the largest pieces of what is gone.

    gone: shape (height, width), of a part at `offset` px that was looked at `fine` times as large.
    """
    _, parts, stats, _ = cv2.connectedComponentsWithStats(gone.astype(np.uint8), connectivity=8)
    largest = 1 + np.argsort(-stats[1:, cv2.CC_STAT_AREA], kind="stable")[:MAX_LOST]
    rings = []
    for number in np.sort(largest).tolist():
        x, y, width, height = stats[number, : cv2.CC_STAT_AREA].tolist()
        piece = (parts[y : y + height, x : x + width] == number).astype(np.uint8)
        drawn = cv2.resize(piece, None, fx=DRAWN, fy=DRAWN, interpolation=cv2.INTER_NEAREST)
        around, _ = cv2.findContours(drawn, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        corner = np.array([x, y], float)
        rings += [((ring[:, 0, :] + 0.5) / DRAWN + corner) / fine + np.array(offset) for ring in around]
    return tuple(rings)
