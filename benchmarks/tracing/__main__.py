"""Scores traces against known outlines: python -m benchmarks.tracing [ink|letters|colours|strokes|...] [--sides 300]"""

from __future__ import annotations

import argparse
import time
from collections.abc import Callable, Sequence
from functools import partial

import cv2
import numpy as np
from skimage.measure import find_contours

from benchmarks.tracing import layers, linework, render
from benchmarks.tracing.bound import apart
from benchmarks.tracing.letters import lettered
from benchmarks.tracing.measure import LayerScore, LineScore, Score, score, score_layers, score_lines, score_mixed
from benchmarks.tracing.mixed import all_mixed
from benchmarks.tracing.truth import truths
from drelo.core.outline.contour import Contour, polygon
from drelo.core.outline.outline import Outline
from drelo.core.picture.decode import Picture, decode
from drelo.core.trace.colours.colours import ColourSettings, trace_colours
from drelo.core.trace.ink import InkSettings
from drelo.core.trace.modes import trace
from drelo.core.trace.nesting import nested
from drelo.core.trace.strokes.strokes import StrokeSettings, trace_strokes

SIDES = (150, 300, 600, 1000, 2500)
JUMBLES = 40
LETTER_CONDITIONS = ("clean", "jpeg")
# px of the longer side of drawings with mixed pens, and what is done to them.
MIXED_SIDE = 1000
MIXED_CONDITIONS = {
    "clean": render.clean,
    "1-bit": render.one_bit,
    "jpeg 75": render.jpeg_75,
    "noise": render.noisy,
    "blur": render.blurred_a_little,
}
# How often each pixel of enlarged pictures is repeated; their scores are in px as they were before.
ENLARGED = 3
# Of so many runs the quickest counts.
RUNS = 15


def ink(sides: Sequence[int]) -> list[str]:
    table: dict[tuple[str, int], list[Score]] = {}
    for side in sides:
        for truth in truths():
            outlines, width, height = truth.fitted(side)
            cover = render.coverage(outlines, width, height)
            for condition, spoil in render.CONDITIONS.items():
                picture = decode(spoil(cover))
                table.setdefault((condition, side), []).append(score(trace(picture, InkSettings()).outlines, outlines))
                if condition == "clean":
                    for name, plain in (("Otsu + findContours", otsu(picture)), ("bare find_contours", bare(picture))):
                        table.setdefault((name, side), []).append(score(plain, outlines))
            large = trace(decode(render.enlarged(cover, ENLARGED)), InkSettings()).outlines
            small = [outline.transformed(1 / ENLARGED) for outline in large]
            table.setdefault(("enlarged", side), []).append(score(small, outlines))
    order = [*render.CONDITIONS, "enlarged", "bare find_contours", "Otsu + findContours"]
    return [ink_row(c, s, table[c, s]) for c in order for s in sides]


def ink_row(condition: str, side: int, scores: list[Score]) -> str:
    corners = sum(s.corners for s in scores)
    return row(
        condition,
        str(side),
        f"{np.mean([s.mean for s in scores]):.3f}",
        f"{np.mean([s.most for s in scores]):.3f}",
        f"{np.mean([s.nodes for s in scores]):.2f}",
        f"{sum(s.found for s in scores) / max(corners, 1):.0%}",
        f"{np.mean([s.false for s in scores]):.1f}",
        f"{sum(s.topology for s in scores)} of {len(scores)}",
    )


def letters(sides: Sequence[int]) -> list[str]:
    """Words in the shipped typefaces, a row for each typeface, size and condition."""
    table: dict[tuple[str, int], list[Score]] = {}
    for side in sides:
        for truth in lettered():
            outlines, width, height = truth.fitted(side)
            cover = render.coverage(outlines, width, height)
            for condition in LETTER_CONDITIONS:
                picture = decode(render.CONDITIONS[condition](cover))
                name = f"{condition}, {truth.name.split()[0]}"
                table.setdefault((name, side), []).append(score(trace(picture, InkSettings()).outlines, outlines))
    return [ink_row(name, side, scores) for (name, side), scores in sorted(table.items())]


def otsu(picture: Picture) -> tuple[Outline, ...]:
    """The plain assembly: one threshold, pixel contours, no curves."""
    grey = cv2.cvtColor(picture.rgb, cv2.COLOR_RGB2GRAY)
    _, mask = cv2.threshold(grey, 0, 255, cv2.THRESH_BINARY_INV | cv2.THRESH_OTSU)
    found, _ = cv2.findContours(mask, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    return _outlines([c[:, 0].astype(float) + 0.5 for c in found])


def bare(picture: Picture) -> tuple[Outline, ...]:
    """Bare level lines."""
    grey = cv2.cvtColor(picture.rgb, cv2.COLOR_RGB2GRAY) / 255.0
    return _outlines([c[:-1, ::-1] - 0.5 for c in find_contours(np.pad(grey, 1, constant_values=1), 0.5)])


def _outlines(rings: list[np.ndarray]) -> tuple[Outline, ...]:
    contours: list[Contour] = [polygon(r) for r in rings if len(r) > 3]
    # Outer contours are told from holes by how many others hold them.
    boxes = np.array([c.bounds for c in contours])
    depth = [
        sum(b[0] < x.bounds[0] and b[1] < x.bounds[1] and b[2] > x.bounds[2] and b[3] > x.bounds[3] for b in boxes)
        for x in contours
    ]
    turned = [c if (c.area < 0) == (d % 2 == 0) else c.reversed() for c, d in zip(contours, depth, strict=True)]
    return nested(turned)


def colours(sides: Sequence[int]) -> list[str]:
    rows = []
    for condition in (*layers.CONDITIONS, "1-bit"):
        for side in sides:
            scores: list[LayerScore] = []
            for art in layers.all_layers():
                placed, width, height = art.fitted(side)
                if condition == "1-bit":
                    picture = decode(layers.packed(placed.unmixed(width, height), "PNG"))
                else:
                    picture = decode(layers.CONDITIONS[condition](placed.pixels(width, height)))
                scores.append(score_layers(trace_colours(picture, ColourSettings()), placed.visible()))
            rows.append(
                row(
                    condition,
                    str(side),
                    f"{np.mean([s.mean for s in scores]):.3f}",
                    f"{np.mean([s.most for s in scores]):.3f}",
                    f"{max(s.colour for s in scores):.0f}",
                    f"{sum(s.shapes for s in scores)} of {len(scores)}",
                    f"{max(s.overlap for s in scores):.1e}",
                    f"{max(s.gap for s in scores):.1e}",
                )
            )
    return rows


def strokes(sides: Sequence[int]) -> list[str]:
    drawings = linework.all_linework()
    jumbles = [linework.jumble(seed) for seed in range(JUMBLES)]
    rows = [stroke_row(condition, s, drawings) for condition in ("clean", "jpeg", "noise", "1-bit") for s in sides]
    return rows + [stroke_row(condition, s, jumbles, "jumbles, ") for condition in ("clean", "noise") for s in sides]


def mixed(sides: Sequence[int]) -> list[str]:
    """Drawings of thick and thin pens, each 1000 px wide, sheet by sheet."""
    rows = []
    for condition in ("clean", "1-bit", "jpeg 75", "noise", "blur"):
        for art in all_mixed():
            placed, width, height = art.fitted(MIXED_SIDE)
            data = MIXED_CONDITIONS[condition](placed.cover(width, height))
            s = score_mixed(trace_strokes(decode(data), StrokeSettings()).lines, placed.lines)
            cells = (s.mean, s.most, s.width, s.widest)
            rows.append(row(condition, art.name, *(f"{c:.2f}" for c in cells), f"{s.kept:.1%}", f"{s.nodes:.2f}"))
    return rows


def stroke_row(condition: str, side: int, drawings: Sequence[linework.Linework], named: str = "") -> str:
    scores: list[LineScore] = []
    for art in drawings:
        placed, width, height = art.fitted(side)
        picture = decode(render.CONDITIONS[condition](placed.cover(width, height)))
        scores.append(score_lines(trace_strokes(picture, StrokeSettings()).lines, placed.lines))
    return row(
        named + condition,
        str(side),
        f"{np.mean([s.mean for s in scores]):.3f}",
        f"{np.mean([s.most for s in scores]):.3f}",
        f"{np.mean([s.width for s in scores]):.3f}",
        f"{np.mean([s.nodes for s in scores]):.2f}",
    )


def bound(sides: Sequence[int]) -> list[str]:
    rows = []
    for side in sides:
        found = [apart(truth, side) for truth in truths()]
        rows.append(row(str(side), f"{np.mean(found):.3f}", f"{np.mean(found) / np.sqrt(2):.3f}"))
    return rows


def times(sides: Sequence[int]) -> list[str]:
    """Whatever the sides, sheets have one megapixel."""
    rows = []
    for condition, spoil in render.CONDITIONS.items():
        ratios = []
        for truth in truths():
            _, width, height = truth.fitted(1000)
            outlines, width, height = truth.fitted(round(1000 * 1000 / np.sqrt(width * height)))
            picture = decode(spoil(render.coverage(outlines, width, height)))
            grey = cv2.cvtColor(picture.rgb, cv2.COLOR_RGB2GRAY) / 255.0
            ours = partial(trace, picture, InkSettings())
            ours()
            # By turns, so that a slow moment of the machine meets both.
            taken = [(_seconds(ours), _seconds(partial(find_contours, grey, 0.5))) for _ in range(RUNS)]
            quickest = np.min(taken, axis=0)
            ratios.append(quickest[0] / quickest[1])
        rows.append(row(condition, f"{np.mean(ratios):.2f}", " ".join(f"{r:.1f}" for r in ratios)))
    return rows


def _seconds(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def row(*cells: str) -> str:
    return "| " + " | ".join(cells) + " |"


HEADS = {
    "ink": ("picture", "px", "mean px", "99 % px", "nodes ×", "corners", "false corners", "topology"),
    "letters": ("picture", "px", "mean px", "99 % px", "nodes ×", "corners", "false corners", "topology"),
    "colours": ("picture", "px", "mean px", "99 % px", "colour off", "shapes", "overlap px²", "gap px²"),
    "strokes": ("picture", "px", "mean px", "99 % px", "width off px", "nodes ×"),
    "mixed": ("picture", "sheet", "mean px", "99 % px", "width off px", "95 % of it px", "kept", "nodes ×"),
    "times": ("picture of 1 megapixel", "× bare find_contours, mean of the sheets", "each sheet"),
    "bound": ("px", "outlines of one 1-bit picture lie apart, px", "what the best trace would miss, px"),
}
TABLES = {
    "ink": ink,
    "letters": letters,
    "colours": colours,
    "strokes": strokes,
    "mixed": mixed,
    "times": times,
    "bound": bound,
}
# What is not measured unless it is named.
NAMED_ONLY = ("times", "bound")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("modes", nargs="*", default=[mode for mode in TABLES if mode not in NAMED_ONLY])
    parser.add_argument("--sides", default=",".join(map(str, SIDES)))
    args = parser.parse_args()
    sides = [int(s) for s in args.sides.split(",")]
    for mode in args.modes:
        print(f"\n{mode}\n\n{row(*HEADS[mode])}\n{row(*['---'] * len(HEADS[mode]))}")
        # Colours and lines are not read from pictures as large as silhouettes.
        few = sides if mode in ("ink", "letters") else [s for s in sides if s <= 1000]
        print("\n".join(TABLES[mode](few)), flush=True)


if __name__ == "__main__":
    main()
