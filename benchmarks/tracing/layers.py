"""Pictures in flat colours that lie over each other, and the edges that stay visible."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image

from benchmarks.tracing.render import coverage
from benchmarks.tracing.truth import arc_ring, art, smooth_ring, words
from drelo.core.outline.contour import polygon
from drelo.core.outline.outline import Outline, bounds

Colour = tuple[int, int, int]


@dataclass(frozen=True, eq=False)
class Layers:
    """Outlines of a colour each, later ones over earlier ones, on a ground; y down."""

    name: str
    ground: Colour
    shapes: tuple[tuple[Outline, Colour], ...]

    def fitted(self, side: int, margin: float = 0.07) -> tuple[Layers, int, int]:
        """The layers in px on a picture whose longer side is `side`, and the picture's width and height."""
        box = bounds(o for o, _ in self.shapes)
        assert box is not None
        width, height = box[2] - box[0], box[3] - box[1]
        scale = side * (1 - 2 * margin) / max(width, height)
        across = [round(v * scale + 2 * margin * side) for v in (width, height)]
        dx = (across[0] - width * scale) / 2 - box[0] * scale + 0.21
        dy = (across[1] - height * scale) / 2 - box[1] * scale - 0.34
        moved = tuple((o.transformed(scale, dx, dy), c) for o, c in self.shapes)
        return Layers(self.name, self.ground, moved), across[0], across[1]

    def pixels(self, width: int, height: int) -> NDArray[np.float64]:
        """Mixed by coverage, shape (height, width, 3), 0..255."""
        result = np.empty((height, width, 3))
        result[:] = self.ground
        for outline, colour in self.shapes:
            cover = coverage([outline], width, height)[..., None]
            result = result * (1 - cover) + np.array(colour, float) * cover
        return result

    def unmixed(self, width: int, height: int) -> NDArray[np.float64]:
        """Without antialiasing: every pixel of the topmost colour that covers half of it; shaped as `pixels`."""
        result = np.empty((height, width, 3))
        result[:] = self.ground
        for outline, colour in self.shapes:
            result[coverage([outline], width, height) >= 0.5] = colour
        return result

    def visible(self) -> list[tuple[Colour, shapely.Geometry]]:
        """What is seen of every colour, the ground left out."""
        seen: dict[Colour, list[shapely.Geometry]] = {}
        above = shapely.Polygon()
        for outline, colour in reversed(self.shapes):
            shape = outline.flattened(0.003)
            seen.setdefault(colour, []).append(shapely.difference(shape, above))
            above = shapely.union(above, shape)
        return [(c, shapely.union_all(parts)) for c, parts in seen.items() if c != self.ground]


def crest() -> Layers:
    navy, cream, clay, moss = (46, 58, 77), (239, 227, 200), (194, 82, 58), (120, 150, 60)
    outlines = art("crest", (0, 1, 2, 12)).outlines
    shield, inner, sun, hills = (o.outer for o in outlines)

    def at(contour, x, y):  # type: ignore[no-untyped-def]
        box = contour.bounds
        return Outline(contour.transformed(1.0, x - box[0], y - box[1]))

    box = shield.bounds
    w, h = box[2] - box[0], box[3] - box[1]
    ib, hb = inner.bounds, hills.bounds
    return Layers(
        "crest",
        (255, 255, 255),
        (
            (at(shield, 0, 0), navy),
            (at(inner, (w - ib[2] + ib[0]) / 2, h * 0.06), cream),
            (at(sun, w * 0.36, h * 0.28), clay),
            (at(hills, (w - hb[2] + hb[0]) / 2 - w * 0.02, h * 0.38), moss),
        ),
    )


def discs() -> Layers:
    """Overlapping rounds and a star: junctions of three colours."""
    star = polygon(
        np.stack(
            [
                260 + np.where(np.arange(10) % 2, 40, 95) * np.cos(np.arange(10) * np.pi / 5 + 0.3),
                300 + np.where(np.arange(10) % 2, 40, 95) * np.sin(np.arange(10) * np.pi / 5 + 0.3),
            ],
            1,
        )
    )
    return Layers(
        "discs",
        (250, 246, 238),
        (
            (Outline(arc_ring(150, 150, 130, 130)), (31, 122, 114)),
            (Outline(arc_ring(330, 170, 120, 100)), (201, 138, 11)),
            (Outline(star), (166, 61, 47)),
            (Outline(arc_ring(240, 150, 40, 40)), (250, 246, 238)),
        ),
    )


def badge() -> Layers:
    """Letters over a blob in two halves."""
    random = np.random.default_rng(3)
    angle = np.linspace(0, 2 * np.pi, 9, endpoint=False)
    radius = 900 + 160 * random.random(9)
    blob = smooth_ring(np.stack([1100 + 1.25 * radius * np.cos(angle), 250 + radius * np.sin(angle) * 0.8], 1))
    letters = words("sans", "Hay5").outlines
    box = bounds(letters)
    assert box is not None
    moved = [o.transformed(1.0, 1100 - (box[0] + box[2]) / 2, 150 - (box[1] + box[3]) / 2) for o in letters]
    band = polygon(np.array([[-400.0, 520], [2600, 430], [2600, 700], [-400, 790]]))
    return Layers(
        "badge",
        (255, 255, 255),
        ((Outline(blob), (232, 196, 90)), (Outline(band), (60, 90, 140)), *((o, (40, 30, 30)) for o in moved)),
    )


def packed(pixels: NDArray[np.float64], kind: str, **options: int) -> bytes:
    out = io.BytesIO()
    Image.fromarray(np.clip(np.round(pixels), 0, 255).astype(np.uint8)).save(out, kind, **options)
    return out.getvalue()


CONDITIONS: dict[str, Callable[[NDArray[np.float64]], bytes]] = {
    "clean": lambda p: packed(p, "PNG"),
    "jpeg": lambda p: packed(p, "JPEG", quality=60),
    "blur": lambda p: packed(cv2.GaussianBlur(p, (0, 0), 1.0), "PNG"),
    "noise": lambda p: packed(p + np.random.default_rng(2).normal(0, 8, p.shape), "PNG"),
}


def all_layers() -> Sequence[Layers]:
    return (crest(), discs(), badge())
