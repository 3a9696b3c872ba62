"""Pictures that are made of squares and meant to be: codes that a phone reads, patterns on a grid.

Shapes that were drawn without antialiasing turn to and fro along their stairs. Squares that are set as they come turn
to the same side as often as not, touch at their corners here and there, and lie about as densely everywhere.
"""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.decode import Picture
from drelo.core.picture.grain import PIXEL_ART, changes

Bits = NDArray[np.bool_]

# Squares of at least so many px are traced as such; smaller ones are made so large.
LARGE = 10
# More squares than this along a side are no pattern that could be printed.
MOST = 200
# Two tones of a picture lie so far apart (of 255), and whatever else there is (of its pixels) is nearer to one of them.
CONTRAST, BETWEEN, MIDDLE = 64, 0.02, 0.3
# Pixels of one tone differ from each other by no more than noise and coding do (standard deviation, of 255).
ALIKE = 32.0
# Of the turns of borders so many go to the same side as the one before, and so many touch at their corners.
SAME, TOUCH, TOUCH_MOST, FEWEST = 0.4, 0.04, 0.4, 60
# So much of all is dark, and of what can be seen through a window of so many squares: lines and letters leave gaps.
DENSE, EVEN, WINDOW = (0.35, 0.65), (0.15, 0.85), 9


def in_large_squares(picture: Picture) -> tuple[Picture, int] | None:
    """A picture whose every pixel is meant to be a square, each repeated, and how often; None for any other."""
    if max(picture.width, picture.height) > MOST * LARGE:
        return None
    tone = _tone(picture)
    bits = _two_tones(tone)
    if bits is None:
        return None
    side = _side(bits)
    small = bits[side // 2 :: side, side // 2 :: side]
    if side >= LARGE or max(small.shape) > MOST:
        return None
    if side <= PIXEL_ART and not any(map(_is_set_in_squares, (small, ~small))):
        return None
    # More colours of about the same tone are another picture.
    if any(picture.rgb[of].std(axis=0).max() > ALIKE for of in (bits, ~bits)):
        return None
    times = -(-LARGE // side)
    large = bits.repeat(times, axis=0).repeat(times, axis=1)

    def clean(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """The mean of its tone in every pixel: neither noise nor ripples are enlarged with the squares."""
        means = np.array([pixels[~bits].mean(axis=0), pixels[bits].mean(axis=0)])
        return np.asarray(np.round(means), np.uint8)[large.astype(np.uint8)]

    alpha = None if picture.alpha is None else clean(picture.alpha)
    mm = None if picture.mm_per_px is None else picture.mm_per_px / times
    return replace(picture, rgb=clean(picture.rgb), alpha=alpha, mm_per_px=mm, coded=False), times


def _tone(picture: Picture) -> NDArray[np.uint8]:
    if picture.alpha is not None:
        return picture.alpha
    return np.asarray(picture.rgb.mean(axis=2), np.uint8)


def _two_tones(tone: NDArray[np.uint8]) -> Bits | None:
    """Which pixels are of the darker of two tones; None where there are more."""
    low, high = int(tone.min()), int(tone.max())
    if high - low < CONTRAST:
        return None
    off = np.abs(tone - (low + high) / 2) < (0.5 - MIDDLE) * (high - low)
    return None if off.mean() > BETWEEN else tone < (low + high) / 2


def _side(bits: Bits) -> int:
    """How many px wide squares are: what all distances between changes can be divided by."""
    places = [changes(np.ascontiguousarray(way[:, :, None].astype(np.uint8))) for way in (bits, bits.T)]
    return int(np.gcd.reduce(np.concatenate([[0], *(np.diff(along) for along in places)]))) or 1


def _is_set_in_squares(bits: Bits) -> bool:
    rows, columns = (np.flatnonzero(bits.any(axis=axis)) for axis in (1, 0))
    art = bits[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    if min(art.shape) < WINDOW or not DENSE[0] <= art.mean() <= DENSE[1]:
        return False
    seen = cv2.boxFilter(art.astype(np.float32), -1, (WINDOW, WINDOW), borderType=cv2.BORDER_REPLICATE)
    half = WINDOW // 2
    inner = seen[half:-half, half:-half]
    if inner.min() < EVEN[0] or inner.max() > EVEN[1]:
        return False
    padded = np.pad(art, 1)
    touching = (padded[:-1, :-1] == padded[1:, 1:]) & (padded[:-1, 1:] == padded[1:, :-1])
    touch = int((touching & (padded[:-1, :-1] != padded[:-1, 1:])).sum())
    counts = [_turns(way) for way in (padded, padded.T)]
    same, other = (sum(count[k] for count in counts) for k in (0, 1))
    turns = same + other
    return turns >= FEWEST and same >= SAME * turns and TOUCH * turns <= touch <= TOUCH_MOST * turns


def _turns(bits: Bits) -> tuple[int, int]:
    """Of how many level stretches of borders both ends turn to the same side, and of how many to different ones."""
    upper, lower = bits[:-1], bits[1:]
    is_border = upper != lower
    # A stretch begins where the pixel before is no border, or one the other way round.
    row, column = np.nonzero(is_border)
    goes_on = is_border[row, column - 1] & (upper[row, column - 1] == upper[row, column])
    begin = np.flatnonzero(~goes_on)
    end = np.append(begin[1:], len(row)) - 1
    first, last, row = column[begin], column[end], row[begin]
    solid = upper[row, first]
    # Beside its ends the border turns towards what differs; where squares touch it turns either way.
    left, right = upper[row, first - 1], upper[row, last + 1]
    known = ~is_border[row, first - 1] & ~is_border[row, last + 1]
    turns = (left == solid) == (right == solid)
    return int((turns & known).sum()), int((~turns & known).sum())
