"""How long moves take: speed rises and falls evenly, and is bounded at every corner by how much it turns.

At a corner the change of velocity is at most what the corner speed makes at a right angle; every line begins and ends
at rest. The highest speeds at corners that braking and gathering speed allow are found in a pass back and one forward.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.rehearsal.lines import Floats, Lines


def line_times(lines: Lines, speeds: Floats, acceleration: float, corner: float) -> Floats:
    """Seconds that each line takes.

    speeds: of each line, mm/s. acceleration: mm/s². corner: speed round a right angle, mm/s.
    """
    return _times(lines.points, lines.starts, speeds, acceleration, corner * math.sqrt(2))


def move_times(distances: Floats, speed: float, acceleration: float) -> Floats:
    """Seconds of straight moves from rest to rest."""
    reach = speed * speed / acceleration
    long = distances / speed + speed / acceleration
    return np.where(distances > reach, long, 2 * np.sqrt(distances / acceleration))


@compiled
def _times(points: Floats, starts: NDArray[np.int64], speeds: Floats, acceleration: float, change: float) -> Floats:
    lines = len(starts) - 1
    result = np.zeros(lines)
    longest = 0
    for line in range(lines):
        longest = max(longest, starts[line + 1] - starts[line])
    limit, length = np.empty(longest), np.empty(longest)
    for line in range(lines):
        first, count = starts[line], starts[line + 1] - starts[line]
        speed = speeds[line]
        if count < 2:
            continue
        limit[0] = limit[count - 1] = 0.0
        for k in range(count - 1):
            dx = points[first + k + 1, 0] - points[first + k, 0]
            dy = points[first + k + 1, 1] - points[first + k, 1]
            length[k] = math.hypot(dx, dy)
            if k and length[k] > 0 and length[k - 1] > 0:
                bx = points[first + k, 0] - points[first + k - 1, 0]
                by = points[first + k, 1] - points[first + k - 1, 1]
                cosine = (bx * dx + by * dy) / (length[k] * length[k - 1])
                # Twice the sine of half the turn.
                turn = math.sqrt(max(2 - 2 * min(cosine, 1.0), 0.0))
                limit[k] = speed if turn * speed <= change else change / turn
            elif k:
                limit[k] = speed
        for k in range(count - 2, 0, -1):
            limit[k] = min(limit[k], math.sqrt(limit[k + 1] ** 2 + 2 * acceleration * length[k]))
        for k in range(1, count):
            limit[k] = min(limit[k], math.sqrt(limit[k - 1] ** 2 + 2 * acceleration * length[k - 1]))
        total = 0.0
        for k in range(count - 1):
            into, out = limit[k], limit[k + 1]
            peak = min(speed, math.sqrt((2 * acceleration * length[k] + into * into + out * out) / 2))
            rise = (peak * peak - into * into) / (2 * acceleration)
            fall = (peak * peak - out * out) / (2 * acceleration)
            total += (2 * peak - into - out) / acceleration
            if peak > 0:
                total += max(length[k] - rise - fall, 0.0) / peak
        result[line] = total
    return result
