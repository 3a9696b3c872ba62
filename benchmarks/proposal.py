"""How often a picture is taken in the right way at first: python -m benchmarks.proposal [--many 60]"""

from __future__ import annotations

import argparse
import time
from collections import Counter

import cv2
import numpy as np
import shapely

from benchmarks.tracing import layers, linework, mixed, render, truth
from drelo.core.picture.decode import decode
from drelo.core.trace.modes import MODES, Mode
from drelo.core.trace.proposal import proposed

SIDES = (220, 400, 700, 1200)
FINE = 3
WORDS = ("Pier", "Heron", "Mill&Son", "Oats", "FIG", "Tern", "Anvil", "No.9", "ham")


def silhouettes(seed: int) -> bytes:
    """Dark shapes on light, in black or one colour.

    Known sheets, words, blobs, stars and gears of any size, and logos: a bold outline round filled shapes.
    """
    random = np.random.default_rng(seed)
    side = int(random.choice(SIDES))
    kind = seed % 4
    if kind == 0:
        sheets = truth.truths()
        outlines, width, height = sheets[int(random.integers(len(sheets)))].fitted(side)
        cover = render.coverage(outlines, width, height)
    elif kind == 1:
        face = str(random.choice(sorted(truth.TYPEFACES)))
        outlines, width, height = truth.words(face, str(random.choice(WORDS))).fitted(side)
        cover = render.coverage(outlines, width, height)
    else:
        large = np.zeros((side * FINE, side * FINE), np.uint8)
        if kind == 3:
            _frame(large, random)
        for _ in range(int(random.integers(1, 6))):
            _shape(large, random, 255)
        cover = cv2.resize(large, (side, side), interpolation=cv2.INTER_AREA) / 255.0
    ink = np.array(random.choice([[20, 20, 20], [30, 60, 140], [150, 30, 40], [30, 90, 50]]), float)
    paper = np.array(random.choice([[255, 255, 255], [244, 238, 224], [250, 250, 245]]), float)
    return _spoilt(paper + cover[..., None] * (ink - paper), random)


def flat_art(seed: int) -> bytes:
    """A few flat colours: known art, or shapes in two to six colours over each other."""
    random = np.random.default_rng(1000 + seed)
    side = int(random.choice(SIDES))
    if seed % 3 == 0:
        art = layers.all_layers()[int(random.integers(3))]
        placed, width, height = art.fitted(side)
        return _spoilt(placed.pixels(width, height), random)
    colours = random.uniform(0, 1, (int(random.integers(2, 7)), 3))
    hsv = np.stack([colours[:, 0] * 179, 110 + colours[:, 1] * 145, 70 + colours[:, 2] * 185], axis=1)
    bgr = cv2.cvtColor(hsv[None].astype(np.uint8), cv2.COLOR_HSV2RGB)[0].tolist()
    large = np.full((side * FINE, side * FINE, 3), 255, np.uint8)
    for k in range(max(4, len(bgr) * 2)):
        _shape(large, random, tuple(int(v) for v in bgr[k % len(bgr)]))
    return _spoilt(cv2.resize(large, (side, side), interpolation=cv2.INTER_AREA).astype(float), random)


def drawings(seed: int) -> bytes:
    """Line drawings: known ones, jumbles, drawings of mixed pens, and doodles."""
    random = np.random.default_rng(2000 + seed)
    side = int(random.choice(SIDES[1:]))
    kind = seed % 4
    if kind == 0:
        art = linework.all_linework()[int(random.integers(3))]
    elif kind == 1:
        art = linework.jumble(seed)
    elif kind == 2:
        sheets = mixed.all_mixed()
        art = sheets[int(random.integers(len(sheets)))]
    else:
        lines = []
        for _ in range(int(random.integers(2, 9))):
            start = random.uniform(40, 360, 2)
            steps = np.cumsum(random.normal(0, 45, (int(random.integers(3, 7)), 2)), axis=0)
            lines.append((linework.curve(*map(tuple, np.clip(start + steps, 10, 390))), random.uniform(2, 6)))
        art = linework.Linework("doodle", tuple(lines))
    placed, width, height = art.fitted(side)
    return _spoilt(render.toned(placed.cover(width, height))[..., None].repeat(3, axis=2), random)


def _shape(large: np.ndarray, random: np.random.Generator, colour: object) -> None:
    size = large.shape[0]
    x, y = random.uniform(0.2, 0.8, 2) * size
    radius = random.uniform(0.08, 0.28) * size
    kind = int(random.integers(4))
    turn = random.uniform(0, 2 * np.pi)
    if kind == 0:
        axes = (int(radius), int(radius * random.uniform(0.5, 1)))
        cv2.ellipse(large, (int(x), int(y)), axes, 30, 0, 360, colour, -1)
        return
    count = (3, int(random.integers(4, 8)), 2 * int(random.integers(4, 9)))[kind - 1]
    angles = turn + np.linspace(0, 2 * np.pi, count, endpoint=False)
    reach = radius * (np.where(np.arange(count) % 2, 0.55, 1.0) if kind == 3 else random.uniform(0.7, 1.0, count))
    points = np.stack([x + reach * np.cos(angles), y + reach * np.sin(angles)], axis=1)
    ring = shapely.get_coordinates(shapely.Polygon(points).buffer(radius * random.uniform(0, 0.15)).exterior)
    cv2.fillPoly(large, [np.round(ring).astype(np.int32)], colour)


def _frame(large: np.ndarray, random: np.random.Generator) -> None:
    """A bold outline near the edge of the picture, with a stem or two on it."""
    size = large.shape[0]
    angles = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    reach = size * (0.4 + 0.04 * np.sin(int(random.integers(2, 5)) * angles + random.uniform(0, 6)))
    ring = size / 2 + np.stack([reach * np.cos(angles), reach * np.sin(angles)], axis=1)
    wide = int(size * random.uniform(0.02, 0.06))
    cv2.polylines(large, [np.round(ring).astype(np.int32)], True, 255, wide)
    for at in random.integers(0, 60, int(random.integers(0, 3))):
        end = ring[at] + 0.09 * (ring[at] - size / 2)
        cv2.line(large, tuple(map(int, ring[at])), tuple(map(int, end)), 255, wide)


def _spoilt(rgb: np.ndarray, random: np.random.Generator) -> bytes:
    """As it is, as a JPEG, under a lamp, noisy, blurred or without antialiasing."""
    how = int(random.integers(6))
    if how == 2:
        rgb = rgb * render.light(rgb.shape[:2])[..., None]
    elif how == 3:
        rgb = rgb + random.normal(0, 7, rgb.shape)
    elif how == 4:
        rgb = cv2.GaussianBlur(rgb, (0, 0), 0.9)
    pixels = np.clip(np.round(rgb), 0, 255).astype(np.uint8)
    if how in (1, 2):
        return layers.packed(pixels.astype(float), "JPEG", quality=int(random.integers(55, 95)))
    return layers.packed(pixels.astype(float), "PNG")


KINDS = {"ink": silhouettes, "colours": flat_art, "strokes": drawings}


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--many", type=int, default=60)
    parser.add_argument("--from", dest="first", type=int, default=0)
    args = parser.parse_args()
    print("| meant | ink | colours | strokes | right | ms |\n| --- | --- | --- | --- | --- | --- |")
    for meant, draw in KINDS.items():
        found: Counter[Mode] = Counter()
        wrong, took = [], []
        for seed in range(args.first, args.first + args.many):
            picture = decode(draw(seed))
            begun = time.perf_counter()
            mode = proposed(picture)
            took.append(time.perf_counter() - begun)
            found[mode] += 1
            if mode != meant:
                wrong.append(seed)
        right = found[meant] / args.many  # type: ignore[index]
        cells = [str(found[mode]) for mode in MODES]
        print(f"| {meant} | {' | '.join(cells)} | {right:.0%} | {1e3 * float(np.median(took)):.0f} |  wrong: {wrong}")


if __name__ == "__main__":
    main()
