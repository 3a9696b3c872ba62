"""Random maps in all four forms, judged by the written bytes: python -m benchmarks.sealing [COUNT] [SEED]

Blobs that cross themselves and each other, near-coincident copies moved by 1e-6 to 1e-2 mm, checkerboards with
alternating heights, and traced noise. Nothing may be unsealed; what is refused is counted with its reason. The volume
is held against the sum of area times height; the small patches at point contacts are all that it may differ by.
"""

from __future__ import annotations

import sys
import time
from collections import Counter

import cv2
import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.base import Base
from drelo.core.form.columns import Design
from drelo.core.form.cutter import Cutter, cutter
from drelo.core.form.edges import Edge
from drelo.core.form.nameplate import Fixing, Nameplate, nameplate
from drelo.core.form.relief import Part, relief
from drelo.core.form.stamp import Grip, Stamp, stamp
from drelo.core.outline.outline import only_areas
from drelo.core.picture.decode import Picture
from drelo.core.region.arrangement import Arrangement
from drelo.core.solid.raising import arrange_design, raise_body, span_of
from drelo.core.solid.seal import check_seal
from drelo.core.trace.ink import InkSettings, trace_ink
from drelo.formats.stl import read_stl, write_stl

FORMS = ("relief", "stamp", "cutter", "nameplate")
TOLERANCE = 0.02
COLOURS = ("#efe3c8", "#3f6b3a")


def blob(rng: np.random.Generator) -> BaseGeometry:
    """An area of a ring that may cross itself."""
    count = int(rng.integers(5, 30))
    angle = np.sort(rng.uniform(0, 2 * np.pi, count))
    radius = rng.uniform(3, 15) * (1 + 0.5 * rng.normal(size=count))
    x, y = rng.uniform(0, 60, 2)
    ring = np.column_stack([x + radius * np.cos(angle), y + radius * np.sin(angle)])
    return only_areas(shapely.make_valid(shapely.Polygon(ring)))


def checkerboard(rng: np.random.Generator) -> list[BaseGeometry]:
    size, across = rng.uniform(1, 4), int(rng.integers(2, 7))
    cells = [(i, j) for i in range(across) for j in range(across) if (i + j) % 2 == 0]
    return [shapely.box(i * size, j * size, (i + 1) * size, (j + 1) * size) for i, j in cells]


def traced_noise(rng: np.random.Generator) -> list[BaseGeometry]:
    """Outlines of a picture of blurred noise, mm."""
    side = int(rng.integers(24, 64))
    grey = cv2.GaussianBlur(rng.uniform(0, 255, (side, side)), (0, 0), float(rng.uniform(0.6, 2)))
    grey = np.where(grey > np.median(grey), 255, 0).astype(np.uint8)
    found = trace_ink(Picture(np.repeat(grey[..., None], 3, axis=2), None, None, "image/png"), InkSettings(speck=0))
    return [only_areas(o.transformed(0.8).flattened(TOLERANCE)) for o in found.outlines]


def shapes_of(rng: np.random.Generator) -> list[BaseGeometry]:
    kind = rng.random()
    if kind < 0.2:
        return checkerboard(rng)
    if kind < 0.3:
        return traced_noise(rng)
    shapes = [blob(rng) for _ in range(int(rng.integers(1, 6)))]
    if rng.random() < 0.3:
        apart = 10 ** rng.uniform(-6, -2)
        shapes.append(shapely.transform(shapes[0], lambda xy: xy + apart))
    return shapes


def design_of(form: str, rng: np.random.Generator) -> Design:
    shapes = shapes_of(rng)
    if form == "stamp":
        kind = str(rng.choice(["none", "knob", "bar", "socket"]))
        grip = Grip(kind, 10, 2, 20)  # type: ignore[arg-type]
        return stamp(shapes, Stamp(grip=grip, margin=float(rng.uniform(0, 4))), TOLERANCE)
    if form == "cutter":
        return cutter(shapes, Cutter(holes=bool(rng.random() < 0.5)), TOLERANCE)
    kinds = ["straight", "bevel", "round", "draft"]
    parts = [
        Part(
            shape,
            float(rng.choice([1.8, 1.0, 0.0, -1.0])),
            str(rng.choice(COLOURS)),
            "part",
            edge=Edge(str(rng.choice(kinds)), 0.5),  # type: ignore[arg-type]
        )
        for shape in shapes
    ]
    if form == "nameplate":
        fixing = Fixing(str(rng.choice(["loop", "screws", "none"])))  # type: ignore[arg-type]
        numbers = Nameplate(
            join=str(rng.choice(["grow", "tie"])),  # type: ignore[arg-type]
            fixing=fixing,
            frame_width=float(rng.choice([0, 1.5])),
        )
        return nameplate(parts, numbers, TOLERANCE)
    shape = str(rng.choice(["outline", "rectangle", "circle"]))
    return relief(parts, Base(shape, thickness=2.4), TOLERANCE)  # type: ignore[arg-type]


def analytic(design: Design, arrangement: Arrangement) -> float:
    """Sum of area times height, mm³."""
    heights = [sum(high - low for low, high in span_of(column, None)) for column in design.columns]
    return float(arrangement.areas @ np.array([*heights, 0.0])[arrangement.top])


def main() -> int:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 2000
    rng = np.random.default_rng(int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    refused: Counter[str] = Counter()
    unsealed, worst = 0, 0.0
    begun = time.perf_counter()
    for number in range(count):
        form = FORMS[number % len(FORMS)]
        try:
            design = design_of(form, rng)
            arrangement = arrange_design(design)
            meshes = [raise_body(design, arrangement)]
            meshes += [raise_body(design, arrangement, i) for i in range(len(design.filaments))]
        except Refusal as refusal:
            refused[refusal.code] += 1
            continue
        volume = analytic(design, arrangement)
        worst = max(worst, abs(meshes[0].volume - volume) / volume)
        for mesh in meshes:
            if not len(mesh.faces):
                continue
            seal = check_seal(read_stl(write_stl(mesh)))
            if not seal.sealed:
                unsealed += 1
                print(f"{form} {number}: {seal.problems[0]}")
    print(f"{count} maps, {unsealed} unsealed, {sum(refused.values())} refused, {time.perf_counter() - begun:.0f} s")
    print(f"  volume against area times height: at most {worst:.1e} apart")
    for reason, times in refused.most_common():
        print(f"  {times} × {reason}")
    return 1 if unsealed else 0


if __name__ == "__main__":
    sys.exit(main())
