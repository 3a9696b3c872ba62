"""Pictures enlarged by a number that is not whole by repeating pixels, some more often than others.

Such a picture changes only where another pixel of the small one begins. The small one is the smallest that gives the
picture back bit by bit.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.decode import MIN_SIDE, Picture
from drelo.core.picture.grain import changes

Indices = NDArray[np.int64]

# How many times it may be enlarged.
LEAST, MOST = 1.08, 4.6
# Rows and columns that are looked at first, and next: hardly any picture that was not enlarged passes them.
PROBES, FEW = (48, 192), 12
# Changes come in step by chance with less than this likelihood, as a logarithm.
CHANCE = -8.0
# Small pixels by which look-ups differ from each other at most.
HAIR = 1e-3
# Of the places between the outermost changes at which the picture could change it does at this share at least.
USED = 0.5
# Across and down it was enlarged as much, but for rounding to whole pixels.
ALIKE = 0.02


def _exact(size: int, count: int) -> Indices:
    return np.asarray((2 * np.arange(size) + 1) * count // (2 * size), np.int64)


def _from_corners(size: int, count: int) -> Indices:
    return np.asarray(np.floor(np.arange(size) * (count / size)), np.int64)


def _divided(size: int, count: int) -> Indices:
    return np.asarray(np.floor(np.arange(size) * (1 / (size / count))), np.int64)


def _multiplied(size: int, count: int) -> Indices:
    return np.asarray(np.floor((np.arange(size) + 0.5) * (count / size)), np.int64)


def _added_up(size: int, count: int) -> Indices:
    step = count / size
    return np.asarray(np.floor(np.cumsum(np.concatenate([[step / 2], np.full(size - 1, step)]))), np.int64)


def _fixed(size: int, count: int) -> Indices:
    step = ((count << 16) + size // 2) // size
    return np.asarray((np.arange(size) * step + step // 2 - count % 2) >> 16, np.int64)


def _single(size: int, count: int) -> Indices:
    at = (np.arange(size, dtype=np.float32) + np.float32(0.5)) / np.float32(size)
    return np.asarray(np.floor(at * np.float32(count)), np.int64)


# Ways in which programs look up the small pixel of a pixel: they differ where its middle falls between two.
LOOK_UPS = (_exact, _added_up, _multiplied, _from_corners, _divided, _fixed, _single)


@dataclass(frozen=True, eq=False)
class Enlarged:
    """What a picture was: every pixel of the small one takes `scale` px on the average, the first from `shift` (x, y)
    px on.
    """

    small: Picture
    scale: float
    shift: tuple[float, float]


def repeats_of(picture: Picture) -> Enlarged | None:
    """The small picture of which some pixels were repeated; None where it was not so enlarged."""
    pixels = picture.rgb if picture.alpha is None else np.dstack([picture.rgb, picture.alpha])
    across = _found(pixels)
    down = None if across is None else _found(pixels.transpose(1, 0, 2))
    if across is None or down is None or abs(across.scale / down.scale - 1) > ALIKE:
        return None
    if across.chance + down.chance > CHANCE:
        return None
    small = pixels[np.ix_(down.first, across.first)]
    if min(small.shape[:2]) < MIN_SIDE or not np.array_equal(small[np.ix_(down.of, across.of)], pixels):
        return None
    scale = math.sqrt(across.scale * down.scale)
    mm = None if picture.mm_per_px is None else picture.mm_per_px * scale
    rgb = np.ascontiguousarray(small[..., :3])
    alpha = None if picture.alpha is None else np.ascontiguousarray(small[..., 3])
    return Enlarged(replace(picture, rgb=rgb, alpha=alpha, mm_per_px=mm), scale, (across.shift, down.shift))


@dataclass(frozen=True, eq=False)
class _Axis:
    """of: the small pixel of every pixel along an axis. first: the first pixel of each small one.

    chance: logarithm of how likely it is that changes lie so by chance.
    """

    of: Indices
    first: Indices
    scale: float
    chance: float

    @property
    def shift(self) -> float:
        """How far borders lie from where an even scale has them, px, on the average."""
        return float(np.mean(self.first[1:] - self.scale * np.arange(1, len(self.first))))


def _found(pixels: NDArray[np.uint8]) -> _Axis | None:
    """How pixels repeat along the second axis."""
    size = pixels.shape[1]
    counts = np.arange(math.ceil(size / MOST), math.floor(size / LEAST) + 1)
    for every in (*(max(1, len(pixels) // some) for some in PROBES), 1):
        places = changes(np.ascontiguousarray(pixels[::every]))
        if _longest_run(places) > 1 / (LEAST - 1):
            return None
        # Most are ruled out by a few places.
        for some in (places[:: max(1, len(places) // FEW)], places):
            counts = counts[_in_step(some, counts, size)]
        if not len(counts):
            return None
    # In even steps they are repeated evenly, or meant to be squares.
    if len(places) < FEW or np.gcd.reduce(np.diff(places)) > 1:
        return None
    for count in counts.tolist():
        for look_up in LOOK_UPS:
            of = look_up(size, count)
            begins = np.concatenate([[True], np.diff(of) > 0])
            if not begins[places].all() or of[-1] + 1 != count or np.count_nonzero(begins) != count:
                continue
            if len(places) >= USED * np.count_nonzero(begins[places[0] : places[-1] + 1]):
                chance = len(places) * math.log(count / size) + math.log(len(LOOK_UPS) * size)
                return _Axis(of, np.flatnonzero(begins), size / count, chance)
    return None


def _in_step(places: Indices, counts: Indices, size: int) -> NDArray[np.bool_]:
    """For which counts of small pixels all changes may lie where one begins, or a hair beside it."""
    share = counts[:, None] / size
    fits = np.zeros(len(counts), bool)
    for middle in (0.5, 0.0):
        into = (places + middle) * share % 1.0
        fits |= ((into < share + HAIR) | (into > 1 - HAIR)).all(axis=1)
    return fits


def _longest_run(places: Indices) -> int:
    """How many changes come one right after another at most."""
    breaks = np.flatnonzero(np.diff(places) != 1)
    edges = np.concatenate([[-1], breaks, [len(places) - 1]])
    return int(np.diff(edges).max(initial=0))
