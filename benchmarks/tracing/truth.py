"""Known outlines of the demo art, the shipped typefaces and drawn-up shapes: the truth for traces."""

from __future__ import annotations

import math
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.ttLib import TTFont
from numpy.typing import NDArray

from drelo.core.outline.contour import Contour, polygon
from drelo.core.outline.outline import Outline, bounds
from drelo.formats.svg_in import read_svg

ROOT = Path(__file__).resolve().parents[2]
FONTS = ROOT / "frontend" / "node_modules" / "@fontsource-variable"
TYPEFACES = {
    "serif": FONTS / "fraunces" / "files" / "fraunces-latin-wght-normal.woff2",
    "sans": FONTS / "figtree" / "files" / "figtree-latin-wght-normal.woff2",
}


@dataclass(frozen=True, eq=False)
class Truth:
    """Outlines that do not touch each other, in any unit, y down."""

    name: str
    outlines: tuple[Outline, ...]

    def fitted(self, side: int, margin: float = 0.06) -> tuple[tuple[Outline, ...], int, int]:
        """Outlines in px on a picture whose longer side is `side`, and the picture's width and height."""
        box = bounds(self.outlines)
        assert box is not None
        width, height = box[2] - box[0], box[3] - box[1]
        scale = side * (1 - 2 * margin) / max(width, height)
        across = [max(16, math.ceil(v * scale + 2 * margin * side)) for v in (width, height)]
        # Off the pixel grid, as art mostly lies.
        dx = (across[0] - width * scale) / 2 - box[0] * scale + 0.137
        dy = (across[1] - height * scale) / 2 - box[1] * scale - 0.291
        return tuple(o.transformed(scale, dx, dy) for o in self.outlines), across[0], across[1]


def art(name: str, picked: tuple[int, ...] | None = None) -> Truth:
    """The paths of a demo drawing, each a shape of its own, set side by side so that none touches another."""
    shapes = [s for s in read_svg((ROOT / "demo" / "art" / f"{name}.svg").read_bytes()).shapes if s.stroke is None]
    placed: list[Outline] = []
    x = y = row = 0.0
    page = math.sqrt(sum(_box_area(s.contours[0]) for s in shapes[1:])) * 1.3
    for number, shape in enumerate(shapes[1:]):
        if picked is not None and number not in picked:
            continue
        for contour in shape.contours:
            box = contour.bounds
            gap = page * 0.04
            if x + box[2] - box[0] > page:
                x, y, row = 0.0, y + row + gap, 0.0
            placed.append(Outline(_whole(contour.transformed(1.0, x - box[0], y - box[1]))))
            x += box[2] - box[0] + gap
            row = max(row, box[3] - box[1])
    return Truth(name, tuple(placed))


def _box_area(contour: Contour) -> float:
    box = contour.bounds
    return (box[2] - box[0]) * (box[3] - box[1])


def _whole(contour: Contour) -> Contour:
    """Without segments of no length, which drawing programs leave behind."""
    keep = np.linalg.norm(contour.curves[:, 3] - contour.curves[:, 0], axis=1) > 1e-6
    return Contour(contour.curves[keep], contour.straight[keep])


def words(typeface: str, text: str) -> Truth:
    """Letters of a shipped typeface, set without kerning."""
    font = TTFont(TYPEFACES[typeface])
    glyphs, names = font.getGlyphSet(), font.getBestCmap()
    outlines: list[Outline] = []
    x = 0.0
    for letter in text:
        pen = DecomposingRecordingPen(glyphs)
        glyphs[names[ord(letter)]].draw(pen)
        outlines += _grouped([c.transformed(1.0, x, 0.0, flip_y=True) for c in _contours(pen.value)])
        x += glyphs[names[ord(letter)]].width + 40
    return Truth(f"{typeface} {text}", tuple(outlines))


def _contours(commands: list[tuple[str, tuple[tuple[float, float], ...]]]) -> list[Contour]:
    contours: list[Contour] = []
    curves: list[NDArray[np.float64]] = []
    straight: list[bool] = []
    start = at = np.zeros(2)
    for name, arguments in commands:
        points = [np.array(p, float) for p in arguments if p is not None]
        if name == "moveTo":
            start = at = points[0]
        elif name == "lineTo":
            curves.append(np.array([at, at + (points[0] - at) / 3, points[0] - (points[0] - at) / 3, points[0]]))
            straight.append(True)
            at = points[0]
        elif name == "qCurveTo":
            offs, end = points[:-1], points[-1]
            for i, off in enumerate(offs):
                to = end if i == len(offs) - 1 else (off + offs[i + 1]) / 2
                curves.append(np.array([at, at + 2 / 3 * (off - at), to + 2 / 3 * (off - to), to]))
                straight.append(False)
                at = to
        elif name in ("closePath", "endPath"):
            if np.linalg.norm(at - start) > 1e-9:
                curves.append(np.array([at, at + (start - at) / 3, start - (start - at) / 3, start]))
                straight.append(True)
            contours.append(_whole(Contour(np.array(curves), np.array(straight))))
            curves, straight = [], []
    return contours


def _grouped(contours: list[Contour]) -> list[Outline]:
    """Outer contours of a glyph with the holes inside their boxes."""
    sign = np.sign(max(contours, key=lambda c: abs(c.area)).area)
    outer = [c for c in contours if np.sign(c.area) == sign]
    holes: list[list[Contour]] = [[] for _ in outer]
    for hole in (c for c in contours if np.sign(c.area) != sign):
        x, y = hole.curves[0, 0]
        inside = [i for i, o in enumerate(outer) if o.bounds[0] < x < o.bounds[2] and o.bounds[1] < y < o.bounds[3]]
        holes[min(inside, key=lambda i: abs(outer[i].area))].append(hole)
    return [Outline(o, tuple(h)) for o, h in zip(outer, holes, strict=True)]


def smooth_ring(points: NDArray[np.float64]) -> Contour:
    """A smooth closed contour through the points (n, 2), tangents along the neighbours' chord."""
    tangent = (np.roll(points, -1, 0) - np.roll(points, 1, 0)) / 6
    end, end_tangent = np.roll(points, -1, 0), np.roll(tangent, -1, 0)
    return Contour(np.stack([points, points + tangent, end - end_tangent, end], 1), np.zeros(len(points), bool))


def arc_ring(cx: float, cy: float, rx: float, ry: float) -> Contour:
    """An ellipse of four cubics."""
    k = 4 / 3 * math.tan(math.pi / 8)
    quarter = [np.array([[1, 0], [1, k], [k, 1], [0, 1]], float)]
    for _ in range(3):
        quarter.append(quarter[-1] @ np.array([[0, 1], [-1, 0]], float))
    return Contour(np.array(quarter) * [rx, ry] + [cx, cy], np.zeros(4, bool))


def shapes() -> Truth:
    """Blobs, stars, a gear, rings and leaning boxes on one sheet."""
    random = np.random.default_rng(11)
    turns = [np.linspace(0, 2 * math.pi, n, endpoint=False) for n in (7, 9, 10, 32)]

    def polar(
        angle: NDArray[np.float64], radius: NDArray[np.float64] | float, cx: float, cy: float
    ) -> NDArray[np.float64]:
        return np.stack([cx + radius * np.cos(angle), cy + radius * np.sin(angle)], 1)

    blob = smooth_ring(polar(turns[0], 90 + 30 * random.random(7), 130, 130))
    eye = smooth_ring(polar(turns[1], 30 + 8 * random.random(9), 130, 130))
    star = polygon(polar(turns[2] + 0.2, np.where(np.arange(10) % 2, 45.0, 110.0), 370, 130))
    gear = polygon(polar(turns[3], np.where(np.arange(32) // 2 % 2, 80.0, 110.0), 620, 130))
    box = polygon(np.array([[-90, -50], [90, -50], [90, 50], [-90, 50]]) @ _turn(0.31) + [130, 370])
    bar = polygon(np.array([[-110, -6], [110, -6], [110, 6], [-110, 6]]) @ _turn(-0.7) + [370, 370])
    return Truth(
        "shapes",
        (
            Outline(blob, (eye,)),
            Outline(star),
            Outline(gear, (arc_ring(620, 130, 40, 40),)),
            Outline(box, (arc_ring(130, 370, 30, 22),)),
            Outline(bar),
            Outline(arc_ring(620, 370, 105, 80), (arc_ring(620, 370, 70, 60),)),
            Outline(arc_ring(500, 480, 24, 24)),
        ),
    )


def _turn(angle: float) -> NDArray[np.float64]:
    return np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])


def truths() -> list[Truth]:
    return [
        art("pear"),
        art("snail", (0, 1, 20, 22)),
        art("crest", (0, 2, 12, 19, 20, 21, 22, 23, 24)),
        words("serif", "GJs0"),
        words("sans", "Mk52e"),
        shapes(),
    ]
