"""Pictures that were enlarged, such as small logos on large screens: by repeating pixels, or smoothly between them.

A smooth enlargement is a sum of kernels, one for each pixel of the small picture: a picture is one when kernels at some
places explain it up to rounding and clipping, and those at places beside do not. What is merely blurred lies anywhere.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.decode import MIN_SIDE, Picture

# Rows and columns that are looked at first: hardly any picture passes them by chance.
PROBES = 48
# At fewer places than this a picture changes by chance in step.
LEAST_CHANGES = 12
# Of the places between the outermost changes at which pixels could change so many do: else it is art on a grid.
USED = 0.25
# In few flat colours more of them must, and blocks larger than this are meant to be squares.
FLAT_COLOURS, FLAT_USED, PIXEL_ART = 64, 0.5, 4
# In a coded picture brightness may change by this (of 255) from one px to the next for its coding alone, and the rest
# must at so large a share lie in step. A place counts from so much on, and with no more than so many times the median.
RIPPLE, IN_STEP, NOTICED, OUTDONE = 30, 0.95, 40.0, 4.0
# A smooth enlargement is told by stretches of so many px along rows and columns, about so many of them. In each
# something must change by so much of 255, and that at so many places.
STRETCH, MOST, FEWEST, LEAST_RANGE, PLACES = 120, 24, 12, 60, 4
# No kernel lets so much of that change from one px to the next.
SHARPEST = 0.62
# They are some of so many times as many with the most in them.
OF = 6
# About so many rows and columns are looked at.
ROWS = 256
# So many times it may be enlarged.
TIMES = (8, 6, 5, 4, 3, 2)
# Kernels explain stretches when they miss them by at most this, root mean square of 255, and elsewhere by so much more,
# which must be more than rounding.
ROUNDING, ELSEWHERE, LEAST_ELSEWHERE = 1.5, 1.6, 0.15


@dataclass(frozen=True)
class Grain:
    """Every pixel of the picture as it was is `size` px wide; left, top: what is missing of the first ones, px.

    kernels: names of what it may have been enlarged with; none where pixels were repeated.
    """

    size: int
    left: int = 0
    top: int = 0
    kernels: tuple[str, ...] = field(default=(), compare=False)

    def completed(self, picture: Picture) -> Picture:
        """The picture with its first pixels made whole."""
        if not (self.left or self.top):
            return picture

        def grown(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
            return np.asarray(cv2.copyMakeBorder(pixels, self.top, 0, self.left, 0, cv2.BORDER_REPLICATE), np.uint8)

        alpha = None if picture.alpha is None else grown(picture.alpha)
        return replace(picture, rgb=grown(picture.rgb), alpha=alpha)


PLAIN = Grain(1)


def grain_of(picture: Picture) -> Grain:
    """How large the pixels are of which a picture was made; PLAIN where it was not enlarged."""
    repeated = _repeated_coded(picture) if picture.coded else _repeated(picture)
    return repeated or _smooth(picture) or PLAIN


def _repeated(picture: Picture) -> Grain | None:
    pixels = picture.rgb if picture.alpha is None else np.dstack([picture.rgb, picture.alpha])
    across = _steps(pixels)
    down = None if across is None else _steps(pixels.transpose(1, 0, 2))
    if across is None or down is None or across.size != down.size:
        return None
    size, used = across.size, min(across.used, down.used)
    small = pixels[down.first % size :: size, across.first % size :: size]
    if used < USED or min(small.shape[:2]) < MIN_SIDE:
        return None
    is_flat = len(np.unique(small.reshape(-1, small.shape[2]), axis=0)) <= FLAT_COLOURS
    if is_flat and (used < FLAT_USED or size > PIXEL_ART):
        return None
    return Grain(size, -across.first % size, -down.first % size)


def _repeated_coded(picture: Picture) -> Grain | None:
    """The same where coding has left ripples: nearly all that brightness changes by, it changes at the right places."""
    bright = np.asarray(cv2.cvtColor(picture.rgb, cv2.COLOR_RGB2GRAY), np.uint8)
    across, down = _steps_coded(bright), _steps_coded(bright.T)
    if across is None or down is None or across.size != down.size or min(across.used, down.used) < FLAT_USED:
        return None
    if min(bright.shape) // across.size < MIN_SIDE:
        return None
    return Grain(across.size, -across.first % across.size, -down.first % across.size)


def _steps_coded(bright: NDArray[np.uint8]) -> _Steps | None:
    some = np.ascontiguousarray(bright[:: max(1, len(bright) // ROWS)])
    more = cv2.subtract(cv2.absdiff(some[:, 1:], some[:, :-1]), np.full_like(some[:, 1:], RIPPLE))
    change = more.sum(axis=0, dtype=np.float64)
    places = 1 + np.flatnonzero(change > NOTICED)
    if len(places) < LEAST_CHANGES:
        return None
    # One long level edge says no more than others.
    change = np.minimum(change, OUTDONE * np.median(change[places - 1]))
    for size in range(PIXEL_ART, 1, -1):
        at = np.bincount(np.arange(1, len(change) + 1) % size, change, size)
        if at.max() > IN_STEP * at.sum():
            first = int(at.argmax())
            right = places[places % size == first]
            return _Steps(size, first, len(right) * size / (right[-1] - right[0] + size))
    return None


@dataclass(frozen=True)
class _Steps:
    """Along one axis pixels change only every `size` px, the first time at `first`, at this share of those places."""

    size: int
    first: int
    used: float


def _steps(pixels: NDArray[np.uint8]) -> _Steps | None:
    """How pixels change along the second axis; None where they do at any place."""
    some = _in_step(changes(np.ascontiguousarray(pixels[:: max(1, len(pixels) // PROBES)])))
    return some and _in_step(changes(pixels))


def changes(pixels: NDArray[np.uint8]) -> NDArray[np.intp]:
    """Where along the second axis any row changes."""
    height, width, channels = pixels.shape
    differ = (pixels[:, 1:] != pixels[:, :-1]).reshape(height, -1).any(axis=0)
    return 1 + np.flatnonzero(differ.reshape(width - 1, channels).any(axis=1))


def _in_step(places: NDArray[np.intp]) -> _Steps | None:
    if len(places) < LEAST_CHANGES:
        return None
    size = int(np.gcd.reduce(np.diff(places)))
    first, last = int(places[0]), int(places[-1])
    return _Steps(size, first, len(places) * size / (last - first + size)) if size > 1 else None


def _smooth(picture: Picture) -> Grain | None:
    pixels = picture.rgb[:, :, 1] if picture.alpha is None else picture.alpha
    rows = _stretches(pixels)
    columns = None if rows is None else _stretches(pixels.T)
    if rows is None or columns is None:
        return None
    found: Grain | None = None
    for (times, kernel), across in _placed(rows, CASES).items():
        # The largest that fits comes first.
        if found is not None and found.size != times:
            break
        down = _placed(columns, ((times, kernel),)).get((times, kernel))
        if down is not None:
            left, top = -across % times, -down % times
            if found is None or (found.left, found.top) == (left, top):
                found = Grain(times, left, top, (*(found.kernels if found else ()), kernel))
    return found


def _stretches(pixels: NDArray[np.uint8]) -> NDArray[np.float64] | None:
    """Parts of rows in which much changes, shape (n, STRETCH); None where there are too few, or too sharp ones.

    All begin at a multiple of STRETCH, which all TIMES divide.
    """
    whole = pixels.shape[1] // STRETCH * STRETCH
    every = max(1, len(pixels) // ROWS)
    parts = np.ascontiguousarray(pixels[::every, :whole]).reshape(-1, STRETCH)
    if not len(parts):
        return None
    high, low = (cv2.reduce(parts, 1, kind).ravel() for kind in (cv2.REDUCE_MAX, cv2.REDUCE_MIN))
    parts = parts[cv2.subtract(high, low).ravel() > LEAST_RANGE]
    if len(parts) < FEWEST:
        return None
    much = cv2.reduce(cv2.absdiff(parts[:, 1:], parts[:, :-1]), 1, cv2.REDUCE_SUM, dtype=cv2.CV_32S).ravel()
    # Those with the most in them lie beside each other: some of many tell more.
    rich = np.sort(np.argsort(-much, kind="stable")[: MOST * OF])
    parts = parts[rich[:: max(1, len(rich) // MOST)]].astype(np.float64)
    steps = np.abs(np.diff(parts, axis=1))
    if len(parts) < FEWEST or len(np.unique(np.argmax(steps, axis=1))) < PLACES:
        return None
    if np.median(steps.max(axis=1) / np.ptp(parts, axis=1)) > SHARPEST:
        return None
    return np.asarray(parts - parts.mean(axis=1, keepdims=True))


def _placed(stretches: NDArray[np.float64], cases: tuple[Case, ...]) -> dict[Case, int]:
    """Where the first whole pixel of the small picture begins along stretches, for all cases in which they show one."""
    spaces, begins = _spaces(cases)
    # What lies in a space and what is missed stand at right angles.
    inside = np.add.reduceat(np.square(stretches @ spaces).sum(axis=0), begins)
    missed = np.sqrt(np.maximum(np.square(stretches).sum() - inside, 0.0) / stretches.size)
    found = {}
    at = 0
    for case in cases:
        each = missed[at : at + case[0]]
        at += case[0]
        best = int(np.argmin(each))
        beside = np.delete(each, best).min()
        if each[best] <= ROUNDING and beside >= max(ELSEWHERE * each[best], LEAST_ELSEWHERE):
            found[case] = best
    return found


@cache
def _spaces(cases: tuple[Case, ...]) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
    """The spaces of all cases at all places beside each other, and at which column each begins."""
    spaces = [_space(kernel, times, first) for times, kernel in cases for first in range(times)]
    widths = [s.shape[1] for s in spaces]
    return np.concatenate(spaces, axis=1), np.cumsum([0, *widths[:-1]])


def _space(kernel: str, times: int, first: int) -> NDArray[np.float64]:
    """Orthonormal columns that span all stretches of a picture enlarged so many times."""
    at = (np.arange(STRETCH) + 0.5 - first) / times - 0.5
    small = np.arange(np.floor(at[0]) - 2, np.ceil(at[-1]) + 3)
    shares = KERNELS[kernel](np.abs(at[:, None] - small))
    shares = shares[:, np.abs(shares).sum(axis=0) > 1e-9]
    return np.linalg.qr(shares / shares.sum(axis=1, keepdims=True))[0]


def _cubic(a: float) -> Kernel:
    """Keys, Cubic convolution interpolation for digital image processing (1981), of slope a at 1."""

    def kernel(d: NDArray[np.float64]) -> NDArray[np.float64]:
        near, far = ((a + 2) * d - (a + 3)) * d * d + 1, ((d - 5) * d + 8) * d * a - 4 * a
        return np.where(d < 1, near, np.where(d < 2, far, 0.0))

    return kernel


Kernel = Callable[[NDArray[np.float64]], NDArray[np.float64]]
# Of the distance to a pixel, in pixels of the small picture: what programs enlarge with.
KERNELS: dict[str, Kernel] = {
    "linear": lambda d: np.maximum(0.0, 1 - d),
    "cubic": _cubic(-0.5),
    "sharp cubic": _cubic(-0.75),
    "lanczos": lambda d: np.where(d < 3, np.sinc(d) * np.sinc(d / 3), 0.0),
}
Case = tuple[int, str]
# All ways of enlarging that are looked for: how many times, and with what kernel.
CASES: tuple[Case, ...] = tuple((times, kernel) for times in TIMES for kernel in KERNELS)
