"""How fast recipes become solids: python -m benchmarks.solids [FACES ...]

Wobbly blobs that overlap, from the recipe's bytes to the checked bytes of the file, in all four forms, beside shapely's
bare union_all and polygonize of the same lines in the same run; and what writing alone takes.
"""

from __future__ import annotations

import gc
import itertools
import json
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import lib3mf
import numpy as np
import shapely

from drelo.cli.build import QUALITIES, made
from drelo.core.solid.mesh import Mesh
from drelo.formats.recipe import read_recipe
from drelo.formats.stl import write_stl
from drelo.formats.svg_in import read_svg
from drelo.formats.threemf import Body, write_3mf

FACES = (500, 3000, 20_000)
FORMS = ("relief", "stamp", "cutter", "nameplate")
COLOURS = ("#efe3c8", "#3f6b3a", "#c26a4a", "#b9c24a")
HEIGHTS = (0.8, 1.6, 2.4, -0.6)
# Faces of the arrangement that a blob brings.
FACES_OF_BLOB = 6
NODES = 12
ROUNDS = 3
# Larger ones are built once.
ROUNDS_UP_TO = 3000
TRIANGLES = 1_000_000


def blobs(count: int) -> tuple[str, float]:
    """An SVG of overlapping smooth blobs, and its width, mm. About six faces of the arrangement a blob."""
    rng = np.random.default_rng(5)
    side = 5.2 * count**0.5
    turn = np.linspace(0, 2 * np.pi, NODES, endpoint=False)
    way = np.column_stack([np.cos(turn), np.sin(turn)])
    paths = []
    for i in range(count):
        radius = 3.2 * (1 + 0.18 * rng.normal(size=NODES))[:, None]
        points = rng.uniform(0, side, 2) + radius * way
        tangent = (np.roll(points, -1, 0) - np.roll(points, 1, 0)) / 6
        a, b, c = points + tangent, np.roll(points - tangent, -1, 0), np.roll(points, -1, 0)
        d = f"M{points[0, 0]:.3f} {points[0, 1]:.3f}"
        for one, two, end in zip(a, b, c, strict=True):
            d += f"C{one[0]:.3f} {one[1]:.3f} {two[0]:.3f} {two[1]:.3f} {end[0]:.3f} {end[1]:.3f}"
        paths.append(f'<path d="{d}Z" fill="{COLOURS[i % len(COLOURS)]}"/>')
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="{side}mm" height="{side}mm" viewBox="0 0 {side} {side}">'
    return svg + "".join(paths) + "</svg>", side


def bare(svg: bytes, tolerance: float) -> tuple[float, int]:
    """Seconds of noding and polygonizing the same lines with shapely alone, and how many faces they have."""
    shapes = [shape.flattened(tolerance) for shape in read_svg(svg).shapes]
    lines = shapely.boundary(np.array(shapes, object))
    seconds = []
    faces = 0
    for _ in range(ROUNDS):
        begin = time.perf_counter()
        found = shapely.polygonize([shapely.union_all(lines)])
        seconds.append(time.perf_counter() - begin)
        faces = len(shapely.get_parts(found))
    return min(seconds), faces


def best(action: Callable[[], object], rounds: int = ROUNDS) -> float:
    seconds = []
    for _ in range(rounds):
        gc.collect()
        begin = time.perf_counter()
        action()
        seconds.append(time.perf_counter() - begin)
    return min(seconds)


def forms(wanted: list[int]) -> Iterator[tuple[str, str, str]]:
    tolerance = QUALITIES["normal"]
    for form in FORMS:
        growth: list[tuple[int, float]] = []
        for faces in wanted:
            svg, _ = blobs(faces // FACES_OF_BLOB)
            plain, found = bare(svg.encode(), tolerance)
            heights = [{"fill": c, "height": h} for c, h in zip(COLOURS, HEIGHTS, strict=True)]
            recipe = json.dumps({"drelo": 1, "form": form, "art": {"file": "art.svg"}, "heights": heights}).encode()
            with tempfile.TemporaryDirectory() as folder:
                (Path(folder) / "art.svg").write_text(svg)
                stages: dict[str, float] = {}

                def whole(folder: str = folder, recipe: bytes = recipe, stages: dict[str, float] = stages) -> None:
                    stages.update(made(read_recipe(recipe), Path(folder), tolerance, True, "x").report["seconds"])

                seconds = best(whole, ROUNDS if faces <= ROUNDS_UP_TO else 1)
            growth.append((found, seconds))
            share = ", ".join(f"{name} {value:.2f}" for name, value in stages.items())
            yield (
                f"{form}, {found} faces",
                f"{seconds:.2f} s",
                f"{seconds / plain:.1f} × bare noding ({plain:.2f} s): {share}",
            )
        (few, fast), (many, slow) = growth[0], growth[-1]
        power = np.log(slow / fast) / np.log(many / few) if many > few else float("nan")
        yield (f"{form}, growth", f"power {power:.2f}", f"from {few} to {many} faces; 1 is linear")


def sheet(triangles: int) -> Mesh:
    """A waved sheet of so many triangles."""
    n = int((triangles / 2) ** 0.5)
    x, y = np.meshgrid(np.arange(n + 1) / 8, np.arange(n + 1) / 8)
    points = np.column_stack([x.ravel(), y.ravel(), np.sin(x.ravel()) * np.cos(y.ravel())])
    at = np.arange(n * (n + 1)).reshape(n, n + 1)[:, :-1].ravel()
    lower = np.column_stack([at, at + 1, at + n + 2])
    upper = np.column_stack([at, at + n + 2, at + n + 1])
    return Mesh(points.astype(np.float32), np.concatenate([lower, upper]).astype(np.int32))


def by_lib3mf(mesh: Mesh) -> float:
    """Seconds that lib3mf's own writer takes, once it holds the mesh."""
    model = lib3mf.get_wrapper().CreateModel()
    thing = model.AddMeshObject()
    positions = [lib3mf.Position((float(a), float(b), float(c))) for a, b, c in mesh.vertices]
    triangles = [lib3mf.Triangle((int(a), int(b), int(c))) for a, b, c in mesh.faces]
    thing.SetGeometry(positions, triangles)
    model.AddBuildItem(thing, lib3mf.get_wrapper().GetIdentityTransform())
    begin = time.perf_counter()
    model.QueryWriter("3mf").WriteToBuffer()
    return time.perf_counter() - begin


def files() -> list[tuple[str, str, str]]:
    mesh = sheet(TRIANGLES)
    stl = best(lambda: write_stl(mesh))
    smaller = sheet(TRIANGLES // 5)
    ours = best(lambda: write_3mf([Body("sheet", "#efe3c8", smaller)], {"Title": "x"}))
    plain = by_lib3mf(smaller)
    return [
        (f"STL of {len(mesh.faces)} triangles", f"{stl:.2f} s", "wanted 0.3 s"),
        (
            f"3MF of {len(smaller.faces)} triangles",
            f"{ours:.2f} s",
            f"{ours / plain:.2f} × lib3mf's writer ({plain:.2f} s)",
        ),
    ]


def main() -> None:
    wanted = [int(n) for n in sys.argv[1:]] or list(FACES)
    for name, figure, beside in itertools.chain(files(), forms(wanted)):
        print(f"{name:<24}  {figure:>12}  {beside}", flush=True)


if __name__ == "__main__":
    main()
