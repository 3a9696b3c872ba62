"""Which flat colour every pixel is of."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.picture.palette import PARTED

Labels = NDArray[np.int16]
Pixels = NDArray[np.float32]
Array = NDArray[np.float64]

# A pixel is sure of its colour when it lies this near (share of the way) compared with the next colour …
SURE = 0.3
# … and no further from it than this (of 255), besides the noise.
SURE_WITHIN, SURE_NOISE = 22.0, 3.0
# An edge pixel mixes colours that are sure within this many px.
REACH = 3
# A pixel that misses every mixture keeps its own colour when it misses that by this share (squared) or less.
OWN = 0.25
# A pixel further (of 255) from its colour, besides the noise, is a mixture; where fewer than this share of the pixels
# beside edges are, a picture has no antialiasing.
MIXED, MIXED_SHARE = 8.0, 0.1
# Coded pictures: brightness tells of an edge whose colours differ by so much in it (of 255); a pixel is a mixture from
# this share of the way on, and where fewer than so many are, there is no antialiasing (with it, a fifth are and more).
CODED_STEP, CODED_BETWEEN, CODED_SHARE = 40.0, 0.35, 0.12
# What goes to a neighbour may leave a speck there in turn: so often it is looked for again.
ROUNDS = 4


def label(pixels: Pixels, palette: Array, noise: float) -> Labels:
    """Colour by pixel, shape (height, width): its number in the palette.

    pixels: shape (height, width, 4); palette: shape (n, 4): both as they mix at antialiased edges, 0..255.
    A pixel on an edge is a mixture of two colours that are sure nearby, and goes to the one of which it has more;
    never to a third that only looks like the mixture.
    """
    nearest, sure = _first(pixels, palette, SURE_WITHIN + SURE_NOISE * noise)
    return _mixed(pixels, palette, nearest, sure)


@compiled
def _first(pixels: Pixels, palette: Array, within: float) -> tuple[Labels, NDArray[np.bool_]]:
    height, width, channels = pixels.shape
    nearest = np.zeros((height, width), np.int16)
    sure = np.zeros((height, width), np.bool_)
    for y in range(height):
        for x in range(width):
            best = second = np.inf
            for k in range(len(palette)):
                away = 0.0
                for c in range(channels):
                    away += (pixels[y, x, c] - palette[k, c]) ** 2
                if away < best:
                    best, second = away, best
                    nearest[y, x] = k
                elif away < second:
                    second = away
            sure[y, x] = best < within * within and np.sqrt(best) < SURE * np.sqrt(second)
    # A lone sure pixel on an edge is more likely a mixture that looks like a colour.
    kept = sure.copy()
    for y in range(height):
        for x in range(width):
            if sure[y, x]:
                same = 0
                for v in range(max(0, y - 1), min(height, y + 2)):
                    for u in range(max(0, x - 1), min(width, x + 2)):
                        same += sure[v, u] and nearest[v, u] == nearest[y, x]
                kept[y, x] = same >= 3
    return nearest, kept


@compiled
def _mixed(pixels: Pixels, palette: Array, nearest: Labels, sure: NDArray[np.bool_]) -> Labels:
    height, width, channels = pixels.shape
    count = len(palette)
    result = nearest.copy()
    present = np.zeros(count, np.bool_)
    near = np.empty(count, np.int64)
    for y in range(height):
        for x in range(width):
            if sure[y, x]:
                continue
            present[:] = False
            found = 0
            for reach in range(1, REACH + 1):
                for v in range(max(0, y - reach), min(height, y + reach + 1)):
                    for u in range(max(0, x - reach), min(width, x + reach + 1)):
                        if sure[v, u] and not present[nearest[v, u]]:
                            present[nearest[v, u]] = True
                            near[found] = nearest[v, u]
                            found += 1
                if found >= 2:
                    break
            if found == 0:
                continue
            if found == 1:
                result[y, x] = near[0]
            best = np.inf
            for i in range(found):
                for j in range(i + 1, found):
                    a, b = near[i], near[j]
                    dot = length = 0.0
                    for c in range(channels):
                        step = palette[b, c] - palette[a, c]
                        dot += (pixels[y, x, c] - palette[a, c]) * step
                        length += step * step
                    share = min(max(dot / max(length, 1e-9), 0.0), 1.0)
                    off = 0.0
                    for c in range(channels):
                        off += (pixels[y, x, c] - palette[a, c] - share * (palette[b, c] - palette[a, c])) ** 2
                    if off < best:
                        best = off
                        result[y, x] = b if share > 0.5 else a
            # What no mixture of the neighbours explains is a colour of its own, however thin.
            own = 0.0
            for c in range(channels):
                own += (pixels[y, x, c] - palette[nearest[y, x], c]) ** 2
            if found >= 1 and own < OWN * best:
                result[y, x] = nearest[y, x]
    return result


def is_hard(labels: Labels, pixels: Pixels, palette: Array, noise: float, coded: bool = False) -> bool:
    """Whether a picture has no antialiasing: beside its edges hardly a pixel is any other colour than its label's.

    coded: ripples beside edges are no mixtures; only what lies well between the two colours of an edge is one.
    """
    if coded:
        return _is_hard_coded(labels, pixels, palette)
    beside = np.zeros(labels.shape, bool)
    across, down = labels[:, 1:] != labels[:, :-1], labels[1:] != labels[:-1]
    for part, edge in ((beside[:, 1:], across), (beside[:, :-1], across), (beside[1:], down), (beside[:-1], down)):
        part |= edge
    off = np.linalg.norm(pixels[beside] - palette[labels[beside]], axis=1)
    return bool(len(off)) and float((off > MIXED + SURE_NOISE * noise).mean()) < MIXED_SHARE


def _is_hard_coded(labels: Labels, pixels: Pixels, palette: Array) -> bool:
    """The same by brightness alone, which is kept finely, where edges that it shows make a step.

    Level and upright edges between whole pixels show nothing between in any picture.
    """
    bright, tones = pixels[..., :3] @ PARTED[0].astype(np.float32), palette[:, :3] @ PARTED[0]
    between = shown = total = 0
    for turned in (False, True):
        named, seen_as = (labels.T, bright.T) if turned else (labels, bright)
        edge = named[:, 1:] != named[:, :-1]
        edge[1:-1] &= ~(edge[:-2] & edge[2:])
        one, other = np.s_[:, 1:], np.s_[:, :-1]
        a, b = tones[named[one][edge]], tones[named[other][edge]]
        told = np.abs(b - a) > CODED_STEP
        step = (b - a)[told]
        for seen, own, way in ((seen_as[one][edge][told], a[told], step), (seen_as[other][edge][told], b[told], -step)):
            between += int(np.count_nonzero((seen - own) / way > CODED_BETWEEN))
            shown += len(seen)
        total += 2 * len(told)
    return shown > total / 2 and between < CODED_SHARE * shown


def without_specks(labels: Labels, count: int, speck: float, hard: bool = False) -> tuple[Labels, int]:
    """Labels in which areas of one colour under `speck` px² went to the colour they touch most; and how many went.

    hard: without antialiasing lines of one pixel hang together by the corners of their pixels.
    """
    result = labels.copy()
    gone = 0
    for _ in range(ROUNDS):
        small = np.zeros(labels.shape, bool)
        number = 0
        pieces = np.zeros(labels.shape, np.int32)
        for k in range(count):
            _, parts, stats, _ = cv2.connectedComponentsWithStats(
                (result == k).astype(np.uint8), connectivity=8 if hard else 4
            )
            tiny = np.flatnonzero(stats[:, cv2.CC_STAT_AREA] < speck)
            tiny = tiny[tiny > 0]
            if len(tiny):
                renamed = np.zeros(len(stats), np.int32)
                renamed[tiny] = number + 1 + np.arange(len(tiny))
                pieces += renamed[parts]
                number += len(tiny)
        small = pieces > 0
        if not small.any():
            break
        gone += number
        _give_away(result, pieces, number, count)
    return result, gone


@compiled
def _give_away(labels: Labels, pieces: NDArray[np.int32], number: int, count: int) -> None:
    height, width = labels.shape
    touching = np.zeros((number + 1, count), np.int64)
    for y in range(height):
        for x in range(width):
            piece = pieces[y, x]
            if piece == 0:
                continue
            for side in range(4):
                v, u = y + (side == 0) - (side == 1), x + (side == 2) - (side == 3)
                if 0 <= v < height and 0 <= u < width and pieces[v, u] != piece:
                    touching[piece, labels[v, u]] += 1
    for y in range(height):
        for x in range(width):
            if pieces[y, x] > 0:
                best = np.argmax(touching[pieces[y, x]])
                if touching[pieces[y, x], best] > 0:
                    labels[y, x] = best
