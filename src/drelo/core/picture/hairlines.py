"""Lines and gaps one pixel wide in pictures without antialiasing.

Calming the staircase of such a picture would wash them out: across them less than half of what is averaged is theirs.
They are told from the ragged edges of noise by their length, and from dither by lying apart.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.picture.patterns import patterns

Mask = NDArray[np.bool_]
Indices = NDArray[np.int64]
Field = NDArray[np.float32]

# A line has at least so many pixels; a pixel of it has about so many of its kind beside it, and at most so many.
SHORTEST, BESIDE, MOST_BESIDE = 3, 2.3, 3
# A line of so many pixels may bend at every other one, where a pixel has at most so many of its kind within two pixels.
BENDING, OPEN = 4, 9
# … and where of a window of so many pixels such lines are no more than this share; beyond that they are dither.
WINDOW, TEXTURE = 25, 0.2
# Where such lines of ink and of paper, of so many pixels each, lie between each other, they are dither or a hatching,
# unless they are longer still, or fewer than so many.
CROWD, LONG, MANY_LINES = 10, 40, 6
# What antialiasing and noise make by chance, and the tips of other shapes, is fewer pixels, or less of their area.
MANY, PART = 12, 0.1
# By how much less than a line stands out do the pixels beside it stand back, so that it holds together over corners.
LESS = 0.96


def with_hairlines(values: Field, bits: Mask, level: float) -> tuple[Field, Mask | None]:
    """A calmed field in which lines and gaps of one pixel stand out as they did before, and where they do.

    values: shape (height, width), the field. bits: which pixels are ink. level: where in the field the edge runs.
    """
    ink, gap = hairlines(bits)
    if not ink.any() and not gap.any():
        return values, None
    kernel = np.ones((3, 3), np.uint8)
    beside_ink, beside_gap = (cv2.dilate(m.astype(np.uint8), kernel) > 0 for m in (ink, gap))
    step = np.float32(min(level, 1 - level))
    high = np.where(beside_gap & ~ink, LESS * step, step)
    low = np.where(beside_ink & ~gap, LESS * step, step)
    plain = np.where(bits, level + high, level - low).astype(np.float32)
    near = beside_ink | beside_gap
    return np.where(near, plain, values), near


def with_coloured_hairlines(
    pixels: Field, labels: NDArray[np.int16], palette: NDArray[np.float64]
) -> tuple[Field, Mask | None, tuple[Mask, ...]]:
    """The same for flat colours: calmed pixels, shape (height, width, channels), with lines of one pixel as they were;
    where they are; and which pixels are lines, for every colour.

    labels: shape (height, width), the colour of each pixel in the palette, shape (colours, channels).
    """
    lines = tuple(hairlines(labels == k)[0] for k in range(len(palette)))
    if not any(line.any() for line in lines):
        return pixels, None, lines
    plain = palette.astype(np.float32)[labels]
    near = np.zeros(labels.shape, bool)
    for k, line in enumerate(lines):
        beside = cv2.dilate(line.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
        near |= beside
        others = beside & (labels != k)
        plain[others] += np.float32((1 - LESS) / 2) * (palette[k].astype(np.float32) - plain[others])
    return np.where(near[..., None], plain, pixels), near, lines


def hairlines(bits: Mask) -> tuple[Mask, Mask]:
    """Which of the pixels that are set, and which of the others, make lines of one pixel; shape (height, width)."""
    whole = np.pad(bits, 1)
    at = _alone(*patterns(whole)[:2])
    ink = whole[at[:, 0], at[:, 1]]
    return _lasting(_found(at[ink], whole, True), _found(at[~ink], whole, False))


def has_hairlines(labels: NDArray[np.int16], count: int) -> bool:
    """Whether a good part of the area of any of so many labels is lines of one pixel."""
    whole = np.bincount(labels.ravel(), minlength=count)
    lines = [int(np.count_nonzero(hairlines(labels == k)[0])) for k in range(count)]
    return bool(np.any((np.array(lines) >= MANY) & (np.array(lines) >= PART * whole)))


@dataclass(frozen=True, eq=False)
class _Found:
    """Chains of pixels that lie in no block of two by two.

    at: shape (n, 2), row and column of each pixel. chain: shape (n,), the chain it is of, counted from 1.
    thin: shape (height, width), which pixels these are. parts: the chain by place, where they are.
    size: pixels of each chain; 0 of those that are no lines.
    """

    at: Indices
    chain: Indices
    thin: Mask
    parts: NDArray[np.int32]
    size: Indices


@compiled
def _alone(code: NDArray[np.uint8], cells: Indices) -> Indices:
    """Row and column of the pixels that lie in no block of two by two of their kind, by the patterns round them."""
    rows, columns = code.shape
    at = np.empty((len(cells), 2), np.int64)
    found = 0
    for i in range(len(cells)):
        r, c = cells[i] // columns, cells[i] % columns
        if r + 1 < rows and c + 1 < columns and code[r, c + 1] and code[r + 1, c] and code[r + 1, c + 1]:
            at[found] = r + 1, c + 1
            found += 1
    return at[:found].copy()


def _found(at: Indices, whole: Mask, kind: bool) -> _Found:
    """Chains of pixels that lie in no block of their kind; whole: which pixels of a picture with a border are ink."""
    beside, around = _beside(at, whole, kind, 1), _beside(at, whole, kind, 2)
    # Where a line comes to what is wider, its last pixels have many beside them and would speak against all of it.
    plain = (beside <= MOST_BESIDE) | (around <= OPEN)
    at, beside, around = at[plain], beside[plain], around[plain]
    thin = np.zeros(whole.shape, np.bool_)
    thin[at[:, 0], at[:, 1]] = True
    # Memory that is not written to costs nothing.
    parts = np.empty(thin.shape, np.int32)
    chain = _chained(at, thin, parts)
    size = np.bincount(chain, minlength=1)

    def mean(values: NDArray[np.float64] | Indices | Mask) -> NDArray[np.float64]:
        return np.bincount(chain, values, len(size)) / np.maximum(size, 1)

    bending = (mean(beside) > BESIDE) | (mean(beside > MOST_BESIDE) > 0)
    none = (size < SHORTEST) | (bending & ((size < BENDING) | (mean(around) > OPEN)))
    if (bending & ~none).any():
        much = cv2.blur(thin.astype(np.float32), (WINDOW, WINDOW), borderType=cv2.BORDER_CONSTANT)
        none |= bending & (mean(much[tuple(at.T)].astype(np.float64)) > TEXTURE)
    size[none] = 0
    return _Found(at, chain, thin, parts, size)


@compiled
def _beside(at: Indices, whole: Mask, kind: bool, reach: int) -> Indices:
    """How many of its kind every pixel has within so many pixels."""
    beside = np.empty(len(at), np.int64)
    for i in range(len(at)):
        y, x = at[i]
        total = -1
        for r in range(max(y - reach, 1), min(y + reach + 1, whole.shape[0] - 1)):
            for c in range(max(x - reach, 1), min(x + reach + 1, whole.shape[1] - 1)):
                total += whole[r, c] == kind
        beside[i] = total
    return beside


@compiled
def _chained(at: Indices, thin: Mask, parts: NDArray[np.int32]) -> Indices:
    """The chain of every pixel; `parts` is filled in where they are."""
    chain = np.empty(len(at), np.int64)
    waiting = np.empty((len(at), 2), np.int64)
    for i in range(len(at)):
        parts[at[i, 0], at[i, 1]] = 0
    number = 0
    for first in range(len(at)):
        y, x = at[first]
        if parts[y, x] == 0:
            number += 1
            parts[y, x] = number
            waiting[0] = y, x
            left = 1
            while left > 0:
                left -= 1
                r, c = waiting[left]
                for v in range(r - 1, r + 2):
                    for u in range(c - 1, c + 2):
                        if thin[v, u] and parts[v, u] == 0:
                            parts[v, u] = number
                            waiting[left] = v, u
                            left += 1
        chain[first] = parts[y, x]
    return chain


def _lasting(one: _Found, other: _Found) -> tuple[Mask, Mask]:
    """Which pixels are lines that lie in no crowd of lines and gaps."""
    if not one.size.any() and not other.size.any():
        none = np.zeros_like(one.thin)[1:-1, 1:-1]
        return none, none
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    # Both kinds of chains are numbered together.
    mine, theirs = _touching(one.at, one.chain, other.thin, other.parts)
    large = (one.size[mine] >= CROWD) & (other.size[theirs] >= CROWD)
    pairs = mine[large], len(one.size) + theirs[large]
    count = len(one.size) + len(other.size)
    graph = coo_array((np.ones(len(pairs[0])), pairs), shape=(count, count))
    crowd = connected_components(graph, directed=False)[1]
    crowded = np.bincount(crowd)[crowd] >= MANY_LINES
    return _kept(one, other, crowded[: len(one.size)]), _kept(other, one, crowded[len(one.size) :])


def _kept(lines: _Found, others: _Found, crowded: Mask) -> Mask:
    touched = _touches(lines.at, others.thin, others.parts, others.size >= CROWD)
    among = crowded & (np.bincount(lines.chain, touched, len(lines.size)) > lines.size / 2)
    stays = (lines.size > 0) & (~among | (lines.size >= LONG) | (lines.size < CROWD))
    mask = np.zeros(lines.thin.shape, bool)
    mask[tuple(lines.at[stays[lines.chain]].T)] = True
    return mask[1:-1, 1:-1]


@compiled
def _touching(at: Indices, chain: Indices, thin: Mask, parts: NDArray[np.int32]) -> tuple[Indices, Indices]:
    """Pairs of a pixel's chain and one of the other kind beside it."""
    mine, theirs = np.empty(9 * len(at), np.int64), np.empty(9 * len(at), np.int64)
    found = 0
    for i in range(len(at)):
        y, x = at[i]
        for v in range(y - 1, y + 2):
            for u in range(x - 1, x + 2):
                if thin[v, u]:
                    mine[found], theirs[found] = chain[i], parts[v, u]
                    found += 1
    return mine[:found].copy(), theirs[:found].copy()


@compiled
def _touches(at: Indices, thin: Mask, parts: NDArray[np.int32], which: Mask) -> Mask:
    """Which pixels lie beside one of the flagged chains."""
    found = np.zeros(len(at), np.bool_)
    for i in range(len(at)):
        y, x = at[i]
        for v in range(y - 1, y + 2):
            for u in range(x - 1, x + 2):
                found[i] |= thin[v, u] and which[parts[v, u]]
    return found
