"""Uneven light: how bright paper and ink are at every place of a photo or scan."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Field = NDArray[np.float32]

# Light changes slowly: it is estimated on a picture reduced to at most so many px a side, and at least so many.
SMALL, MIN_SMALL = 192, 8
# Light is uneven when paper varies by more than this (of 255) over the picture.
UNEVEN = 6.0
# Where what counts as paper strays further (of 255, root mean square) from a smooth surface, it is not only light.
TOO_ROUGH = 9.0
# A fit that strays by more than this share of the contrast is compared with another.
DOUBTFUL = 0.03
# Less contrast (of 255) than this anywhere is no paper and ink.
LEAST_CONTRAST = 12.0
# Side (px of the reduced picture) of the blocks in which the paper is compared first.
BLOCK = 16
# Share of the brightest nearby that parts paper and ink at first.
NEAR_MIDDLE = 0.66
# The middle is fitted at most so many times, until it moves by less than this (of 255).
ROUNDS, AT_REST = 5, 0.5
ENOUGH = 20
# Where brightness changes by less than this (of 255) over 3 px, a pixel is plain paper or ink.
PLAIN_STEP = 20.0
# A surface is fitted to about this many pixels.
FIT_ON = 4000
# Where plain paper and ink are looked for in the whole picture.
SEEN_ON = 4000
# By how much a pixel may be less than paper, or more than ink, once the light is taken out.
BEYOND = 0.15
# Share of the picture's longer side over which what the smooth surface missed is averaged.
LOCAL = 0.07
# px of the reduced picture to one of the grid on which that is done.
COARSE = 3


@dataclass(frozen=True, eq=False)
class Light:
    """How bright paper and ink are, 0..255, at every pixel of a picture of `size` (width, height).

    small_paper, small_ink: the same on a picture reduced so many `times`.
    """

    small_paper: Array
    small_ink: Array
    times: int
    size: tuple[int, int]

    @cached_property
    def paper(self) -> Field:
        return self._grown(self.small_paper)

    @cached_property
    def ink(self) -> Field:
        return self._grown(self.small_ink)

    def evened(self, bright: Field) -> Field:
        """How much of each pixel is ink, 0 on paper and 1 on full ink, shape (height, width); `bright` is used up."""
        values = np.subtract(self.paper, bright, out=bright)
        values *= self._grown(1 / (self.small_paper - self.small_ink))
        # What is brighter than its paper, or darker than full ink, says nothing more.
        return np.asarray(np.clip(values, -BEYOND, 1 + BEYOND, out=values))

    def _grown(self, surface: Array) -> Field:
        width, height = self.size
        rows, columns = surface.shape
        whole = (columns * self.times, rows * self.times)
        grown = np.asarray(cv2.resize(surface.astype(np.float32), whole, interpolation=cv2.INTER_LINEAR), np.float32)
        return grown[:height, :width]


def uneven_light(bright: NDArray[np.uint8], always: bool = False) -> Light | None:
    """The light on a picture of dark ink on light paper (grey, shape (height, width)); None when it is even enough.

    Paper is a cubic surface fitted to what is lighter than the middle between paper and ink, then corrected locally;
    ink is a share of it. Both are fitted again as the middle moves.
    always: the light is given even where it is even enough; None only where paper and ink cannot be told apart.
    """
    height, width = bright.shape
    times = math.ceil(max(height, width) / SMALL)
    if not always and _plainly_even_of_some(bright, times):
        return None
    small = _reduced(bright, times)
    otsu, _ = cv2.threshold(small, 0, 255, cv2.THRESH_OTSU)
    if not always and _plainly_even(small, otsu):
        return None
    terms = _terms(*small.shape)
    fits = _sound(_surfaces(small, terms, np.full(small.shape, float(otsu))))
    if not fits or fits[0].misfit > DOUBTFUL:
        # Where the light falls off strongly, one tone parts the picture wrongly; the brightest nearby does better.
        window = np.ones((max(3, max(small.shape) // 8),) * 2, np.uint8)
        near = cv2.GaussianBlur(cv2.dilate(small, window).astype(np.float64), (0, 0), max(small.shape) / 12)
        fits += _sound(_surfaces(small, terms, np.asarray(NEAR_MIDDLE * near, np.float64)))
    if not fits:
        return None
    best = min(fits, key=lambda f: f.misfit)
    if not always and np.ptp(best.paper[best.is_paper]) < UNEVEN:
        return None
    # Where lines are so dense that every reduced pixel mixes, only the picture itself shows plain paper and ink.
    if not always and best.rough > TOO_ROUGH and _rough_of_whole(bright, best, times) > TOO_ROUGH:
        return None
    more = _smoothed(small - best.paper, best.is_paper, LOCAL * max(small.shape))
    paper = best.paper + more
    ink = best.ink + best.slope * more
    return Light(paper, ink, times, (width, height))


def _reduced(bright: NDArray[np.uint8], times: int) -> NDArray[np.uint8]:
    """Means of squares of so many px; beyond the border its outermost pixels go on."""
    height, width = bright.shape
    rows, columns = max(MIN_SMALL, -(-height // times)), max(MIN_SMALL, -(-width // times))
    whole = cv2.copyMakeBorder(bright, 0, rows * times - height, 0, columns * times - width, cv2.BORDER_REPLICATE)
    return np.asarray(cv2.resize(whole, (columns, rows), interpolation=cv2.INTER_AREA), np.uint8)


def _plainly_even_of_some(bright: NDArray[np.uint8], every: int) -> bool:
    """Whether it shows in some pixels already."""
    some = np.ascontiguousarray(bright[::every, ::every])
    otsu, _ = cv2.threshold(some, 0, 255, cv2.THRESH_OTSU)
    return _plainly_even(some, otsu)


def _plainly_even(small: Array | NDArray[np.uint8], middle: float) -> bool:
    """Whether the lighter part of every block of the picture is as bright as that of any other."""
    rows, columns = (n // BLOCK for n in small.shape)
    if min(rows, columns) < 2:
        return False
    tiles = small[: rows * BLOCK, : columns * BLOCK].reshape(rows, BLOCK, columns, BLOCK).transpose(0, 2, 1, 3)
    blocks = tiles.reshape(rows * columns, BLOCK * BLOCK)
    blocks = blocks[np.mean(blocks > middle, axis=1) > 0.4]
    bright = np.quantile(blocks, 0.8, axis=1) if len(blocks) else np.empty(0)
    return not len(bright) or bool(np.ptp(bright) < UNEVEN / 2)


@dataclass(frozen=True, eq=False)
class _Surfaces:
    """Paper and ink over the small picture; rough: root mean square distance of plain pixels to the nearer one."""

    paper: Array
    ink: Array
    slope: float
    is_paper: NDArray[np.bool_]
    rough: float

    @property
    def misfit(self) -> float:
        """How rough, against the contrast."""
        return self.rough / float(np.mean(self.paper - self.ink))


def _sound(fit: _Surfaces | None) -> list[_Surfaces]:
    return [] if fit is None or np.min(fit.paper - fit.ink) < LEAST_CONTRAST else [fit]


def _surfaces(small: NDArray[np.uint8], terms: Array, middle: Array) -> _Surfaces | None:
    """Paper and ink fitted to what lies above and below the middle, again as the middle moves."""
    kernel = np.ones((3, 3), np.uint8)
    # Pixels that mix paper and ink say nothing of either.
    darkest_near = cv2.erode(small, kernel)
    step = cv2.subtract(cv2.dilate(small, kernel), darkest_near)
    plain = step < np.maximum(PLAIN_STEP, np.median(step))
    darkest = small <= darkest_near
    for _ in range(ROUNDS):
        is_paper, is_ink = plain & (small > middle), plain & (small <= middle)
        if is_ink.sum() < ENOUGH:
            # Strokes so thin that every pixel mixes: the darkest of each are nearest to full ink.
            is_ink = (small <= middle) & darkest
        if min(is_paper.sum(), is_ink.sum()) < ENOUGH:
            return None
        paper = _fitted(terms, small, is_paper)
        slope, shift = _linear(paper[is_ink], small[is_ink])
        ink = slope * paper + shift
        before, middle = middle, (paper + ink) / 2
        if np.max(np.abs(middle - before)) < AT_REST:
            break
    either = is_paper | is_ink
    off = np.minimum(np.abs(small - paper), np.abs(small - ink))[either]
    return _Surfaces(paper, ink, slope, is_paper, float(np.sqrt(np.mean(off**2))))


def _rough_of_whole(bright: NDArray[np.uint8], fit: _Surfaces, times: int) -> float:
    """The same distance on the picture that was reduced, noise averaged over 3 px."""
    height, width = bright.shape
    if min(height, width) < 5:
        return np.inf
    every = max(1, round((height * width / SEEN_ON) ** 0.5))
    rows, columns = (v.ravel() for v in np.mgrid[2 : height - 2 : every, 2 : width - 2 : every])
    around = np.arange(-2, 3)
    patches = bright[rows[:, None, None] + around[:, None], columns[:, None, None] + around].astype(np.float32)
    sums = patches[:, :-2] + patches[:, 1:-1] + patches[:, 2:]
    calm = ((sums[..., :-2] + sums[..., 1:-1] + sums[..., 2:]) / 9).reshape(-1, 9)
    step = np.ptp(calm, axis=1)
    plain = step < max(PLAIN_STEP, float(np.median(step)))
    here = rows[plain] // times, columns[plain] // times
    seen = calm[plain, 4].astype(np.float64)
    off = np.minimum(np.abs(seen - fit.paper[here]), np.abs(seen - fit.ink[here]))
    return float(np.sqrt(np.mean(off**2))) if len(off) else np.inf


@lru_cache(maxsize=4)
def _terms(rows: int, columns: int) -> Array:
    """Products x^i y^j up to degree three, shape (rows · columns, 10)."""
    x, y = np.linspace(-1, 1, columns), np.linspace(-1, 1, rows)
    return np.stack([np.outer(y**j, x**i).ravel() for i in range(4) for j in range(4 - i)], axis=1)


def _fitted(terms: Array, values: NDArray[np.uint8], where: NDArray[np.bool_]) -> Array:
    chosen = np.flatnonzero(where.ravel())
    chosen = chosen[:: max(1, len(chosen) // FIT_ON)]
    # A touch of damping keeps the surface flat where no paper is seen.
    a, b = terms[chosen], values.ravel()[chosen]
    damping = np.diag([1e-3 * len(a) / 10 * bool(k) for k in range(terms.shape[1])])
    return np.asarray(terms @ np.linalg.solve(a.T @ a + damping, a.T @ b)).reshape(values.shape)


def _linear(x: Array, y: Array) -> tuple[float, float]:
    """Slope 0..1 and shift of a line through values; level when x hardly varies."""
    spread = float(np.var(x))
    slope = float(np.clip(np.mean((x - x.mean()) * (y - y.mean())) / spread, 0, 1)) if spread > 1 else 0.0
    return slope, float(np.median(y - slope * x))


def _smoothed(rest: Array, where: NDArray[np.bool_], sigma: float) -> Array:
    """What is left at the flagged places, averaged over `sigma` px: so calm that a coarser grid shows all of it."""
    rows, columns = rest.shape
    coarse = (-(-columns // COARSE), -(-rows // COARSE))
    both = np.dstack([where, np.where(where, rest, 0.0)]).astype(np.float32)
    calm = cv2.GaussianBlur(cv2.resize(both, coarse, interpolation=cv2.INTER_AREA), (0, 0), sigma / COARSE)
    mean = np.asarray(calm[..., 1] / (calm[..., 0] + 0.05), np.float32)
    return np.asarray(cv2.resize(mean, (columns, rows), interpolation=cv2.INTER_LINEAR), np.float64)
