"""How long a rehearsal takes, how it grows, and packing against packing by boxes: python -m benchmarks.rehearsal

Sections are held against trimesh's in the same run, reading against reading; packing against the package rectpack.
"""

from __future__ import annotations

import math
import sys
import time
from collections.abc import Callable
from typing import Any

import numpy as np
import shapely
import trimesh
from rectpack import newPacker
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from drelo.core.form.base import Base
from drelo.core.form.relief import Part, relief
from drelo.core.rehearsal.nesting import nested
from drelo.core.rehearsal.sections import sections
from drelo.core.rehearsal.settings import Manner, Printer, Spool
from drelo.core.solid.making import Body
from drelo.core.solid.mesh import Mesh
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.formats.threemf import read_3mf, write_3mf
from drelo.work.rehearsing import printed

LAYER, SPACING = 0.2, 5.0
BED = shapely.box(0, 0, 220, 220)


def main() -> int:
    cuts()
    growth()
    packing()
    return 0


def best(run: Callable[[], Any], times: int = 3) -> float:
    """The shortest of a few runs, s."""
    found = []
    for _ in range(times):
        begin = time.perf_counter()
        run()
        found.append(time.perf_counter() - begin)
    return min(found)


def cuts() -> None:
    """Layers of balls of ever more triangles, against reading the file and against another section."""
    print("sections at 0.2 mm      triangles   layers   ours      reading   trimesh")
    for fineness in (5, 6, 7):
        ball = trimesh.creation.icosphere(subdivisions=fineness, radius=30)
        mesh = Mesh(ball.vertices.astype(np.float32), ball.faces.astype(np.int32))
        heights = np.arange(-30 + LAYER / 2, 30, LAYER)
        data = write_3mf([Body("ball", "#808080", mesh)])
        sections(mesh, heights[:2])
        ours = best(lambda mesh=mesh, heights=heights: sections(mesh, heights))  # type: ignore[misc]
        # What was read last is kept: only the first time counts.
        reading = best(lambda data=data: read_3mf(data), 1)  # type: ignore[misc]
        theirs = best(
            lambda ball=ball, heights=heights: ball.section_multiplane(np.zeros(3), [0, 0, 1], heights),  # type: ignore[misc]
            1,
        )
        print(
            f"                        {len(ball.faces):9d}   {len(heights):6d}   {ours:6.2f} s  "
            f"{ours / reading:5.2f} ×   {ours / theirs:5.2f} ×"
        )


def growth() -> None:
    """A plate with ever more studs on 200 mm, from its meshes to all that is told."""
    print("whole rehearsal         regions   layers   seconds   exponent")
    before: tuple[int, float] | None = None
    for across in (18, 36, 71, 142):
        mesh = studs(across)
        bodies = [Body("plate", "#808080", mesh)]
        took = best(lambda bodies=bodies: printed(bodies, [Spool()], Printer(), Manner()), 1)  # type: ignore[misc]
        count = across * across
        grown = "" if before is None else f"{math.log(took / before[1]) / math.log(count / before[0]):.2f}"
        print(f"                        {count:7d}   {16:6d}   {took:7.2f}   {grown}")
        before = count, took


def studs(across: int) -> Mesh:
    """So many round studs in a square on a plate of 200 mm."""
    step = 200 / across
    shapes = [
        shapely.Point((i + 0.5) * step, (j + 0.5) * step).buffer(0.36 * step, quad_segs=4)
        for i in range(across)
        for j in range(across)
    ]
    parts = [Part(shape, 1.2, "#808080", "stud") for shape in shapes]
    design = relief(parts, Base("rectangle", margin=2, colour="#808080"), 0.05)
    return raise_body(design, arrange_design(design))


def packing() -> None:
    """Thirty mixed outlines on beds, by outline and by box."""
    shapes = mixed()
    nested(shapes[:2], BED, SPACING)
    begin = time.perf_counter()
    places = nested(shapes, BED, SPACING) or []
    took = time.perf_counter() - begin
    packer = newPacker(rotation=True)
    for number, shape in enumerate(shapes):
        x0, y0, x1, y1 = shape.bounds
        packer.add_rect(math.ceil(x1 - x0 + SPACING), math.ceil(y1 - y0 + SPACING), number)
    packer.add_bin(220 + SPACING, 220 + SPACING, count=float("inf"))
    packer.pack()
    beds = max(place.bed for place in places) + 1
    ours = [sum(s.area for s, p in zip(shapes, places, strict=True) if p.bed == bed) / BED.area for bed in range(beds)]
    theirs = [sum(shapes[rect.rid].area for rect in one) / BED.area for one in packer]
    print(f"packing 30 outlines     {beds} beds in {took:.2f} s, full to {words(ours)}")
    print(f"  by boxes              {len(packer)} beds, full to {words(theirs)}")


def words(shares: list[float]) -> str:
    return ", ".join(f"{100 * share:.0f} %" for share in shares)


def mixed() -> list[BaseGeometry]:
    disc = shapely.Point(0, 0).buffer(1, quad_segs=16)
    crescent = disc - affinity.translate(disc, 0.8, 0)
    wedge = shapely.Polygon([(0, 0), (1, 0), (0, 1.2)])
    angle = shapely.union_all([shapely.box(0, 0, 60, 14), shapely.box(0, 0, 14, 60)])
    return [
        *(affinity.scale(wedge, 70 - 3 * k, 70 - 3 * k, origin=(0, 0)) for k in range(10)),
        *(affinity.scale(crescent, 30 + k, 30 + k, origin=(0, 0)) for k in range(10)),
        *(affinity.scale(disc, 20 + k, 20 + k, origin=(0, 0)) for k in range(5)),
        *(affinity.scale(angle, 1, 0.8 + 0.1 * k, origin=(0, 0)) for k in range(5)),
    ]


if __name__ == "__main__":
    sys.exit(main())
