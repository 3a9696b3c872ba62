"""Taking a blur out of an ink field: gaps, necks and corners that it closed or rounded come back."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Field = NDArray[np.float32]

# A field is told how blurred it is by a window with at most so many px a side: the one with the most edges.
WINDOW = 160
# How far the blur that explains a field may lie from what its slopes say, the largest first.
SHARES = (1.1, 1.05, 1.025, 1.0, 0.975, 0.95, 0.925, 0.9, 0.85)
EASY = 0.8
# An explanation is as good as another when it misses the field by at most so many times as much.
AS_GOOD = 1.25
# Ink may be darker than any pixel by up to this.
MOST_INK, INK_STEP = 1.6, 0.01
UNBOUNDED = 9.0
# Rounds while explanations are compared, and at the end, by how much the best one misses the field (root mean square):
# what noise there is grows with every round.
COMPARING = 100
ROUNDS = ((0.002, 200), (0.004, 50))


@dataclass(frozen=True, eq=False)
class Sharp:
    """values: shape (height, width), 0 paper, 1 ink. ink: how much ink that is on the scale of the blurred field."""

    values: Field
    ink: float


def sharpened(values: Field, blur: float) -> Sharp | None:
    """A field without its blur; None where it is too noisy for that.

    values: 0 paper, 1 the darkest that the picture shows; thin strokes under a blur show less than their ink. blur:
    standard deviation, px, about as the edges show it. The widest blur and the least ink that explain the field are
    taken, since narrower blurs explain it by softer shapes and more ink by thinner ones.
    """
    window = _window(values)
    floor = _unblurred(window, EASY * blur, UNBOUNDED, COMPARING)[1]
    rounds = next((many for most, many in ROUNDS if floor <= most), 0)
    if not rounds:
        return None
    for share in (*SHARES, EASY):
        sigma = share * blur
        missed = _unblurred(window, sigma, UNBOUNDED, COMPARING)[1]
        if missed <= AS_GOOD * floor:
            break
    ink = _least_ink(window, sigma, AS_GOOD * missed)
    return Sharp(_unblurred(values / np.float32(ink), sigma, 1.0, rounds)[0], ink)


def _least_ink(window: Field, sigma: float, most: float) -> float:
    """The least ink with which the window is missed by at most `most`."""
    low, high = 0, round((MOST_INK - 1) / INK_STEP)
    while low < high:
        middle = (low + high) // 2
        if _unblurred(window, sigma, 1 + middle * INK_STEP, COMPARING)[1] <= most:
            high = middle
        else:
            low = middle + 1
    return 1 + low * INK_STEP


def _unblurred(values: Field, sigma: float, ink: float, rounds: int) -> tuple[Field, float]:
    """The field between 0 and `ink` whose blur comes nearest to another one, and by how much it misses it.

    Projected gradient with momentum: Beck and Teboulle, A fast iterative shrinkage-thresholding algorithm (2009).
    """

    def blurred(field: Field) -> Field:
        return np.asarray(cv2.GaussianBlur(field, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE), np.float32)

    found = ahead = np.clip(values, 0, np.float32(ink))
    pace = 1.0
    for _ in range(rounds):
        following = np.clip(ahead - blurred(blurred(ahead) - values), 0, np.float32(ink))
        faster = (1 + np.sqrt(1 + 4 * pace**2)) / 2
        ahead = following + np.float32((pace - 1) / faster) * (following - found)
        found, pace = following, faster
    return found, float(np.sqrt(np.square(blurred(found) - values).mean()))


def _window(values: Field) -> Field:
    """The part of a field with the most edges."""
    height, width = (min(side, WINDOW) for side in values.shape)
    steep = np.abs(cv2.Laplacian(values, cv2.CV_32F))
    sums = cv2.integral(steep)
    inside = sums[height:, width:] - sums[:-height, width:] - sums[height:, :-width] + sums[:-height, :-width]
    top, left = np.unravel_index(int(np.argmax(inside)), inside.shape)
    return values[top : top + height, left : left + width]
