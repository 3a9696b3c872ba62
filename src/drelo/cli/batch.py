"""`drelo batch`: the same recipe for a list of names, each checked; as files, or packed on beds."""

from __future__ import annotations

import argparse
import csv
import io
import os
import re
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np

from drelo.cli import files
from drelo.cli.build import QUALITIES, Built, made
from drelo.core.errors import Refusal
from drelo.core.solid.mesh import Mesh
from drelo.formats import recipe as recipes
from drelo.formats.names import file_name
from drelo.formats.recipe import Recipe
from drelo.formats.threemf import write_3mf

MAX_NAMES = 1000
MAX_BYTES = 2**20
HEADERS = {"name", "names", "text"}


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("recipe", type=Path, metavar="RECIPE.json")
    parser.add_argument("names", type=Path, metavar="NAMES.csv")
    parser.add_argument("-o", dest="out", type=Path, required=True, metavar="DIR")
    parser.add_argument("--as", dest="kind", choices=["stl", "3mf"], default="stl", help="kind of the files")
    parser.add_argument("--bed", type=bed_size, default=None, metavar="WxD", help="pack on beds, one 3MF each, mm")
    parser.add_argument("--spacing", type=float, default=4.0, metavar="MM", help="between pieces on a bed")
    parser.add_argument("--quality", choices=list(QUALITIES), default="normal", help="fineness of curves")
    parser.add_argument("--report", type=Path, default=None, metavar="R.json", help="figures of the run")


def bed_size(text: str) -> tuple[float, float]:
    match = re.fullmatch(r"(\d+(?:\.\d+)?)x(\d+(?:\.\d+)?)", text)
    if not match or min(float(v) for v in match.groups()) <= 0:
        raise argparse.ArgumentTypeError("a bed is written like 220x220")
    return float(match[1]), float(match[2])


def run(args: argparse.Namespace) -> None:
    recipe = recipes.read_recipe(files.read(args.recipe, "The recipe", recipes.MAX_BYTES))
    if recipe.art.text is None:
        raise Refusal("A batch sets every name in the recipe's words: give the art as text.", "art.text")
    names = read_names(files.read(args.names, "The list of names", MAX_BYTES))
    if args.out.exists() and not args.out.is_dir():
        raise Refusal(f"{args.out} is a file; name a folder for the pieces.")
    flat = args.kind == "stl" and args.bed is None
    jobs = [(one(recipe, name), args.recipe.parent, QUALITIES[args.quality], flat, name) for name in names]
    with ProcessPoolExecutor(min(len(jobs), os.cpu_count() or 1)) as pool:
        built = list(pool.map(_made, jobs))
    wrong = [f"{name}: {b}" for name, b in zip(names, built, strict=True) if isinstance(b, str)]
    if wrong:
        more = f" And {len(wrong) - 1} more." if len(wrong) > 1 else ""
        raise Refusal(f"{wrong[0]}{more} Nothing was written.")
    done = [b for b in built if isinstance(b, Built)]
    written = _beds(names, done, args.bed, args.spacing) if args.bed else _files(names, done, args.kind)
    args.out.mkdir(parents=True, exist_ok=True)
    for file, data in written.items():
        files.write(args.out / file, data)
    files.write_report(
        args.report,
        {"files": list(written), "pieces": [{"name": n, **b.report} for n, b in zip(names, done, strict=True)]},
    )


def read_names(data: bytes) -> list[str]:
    """The first column, a heading left out. Raises Refusal when no name is left."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise Refusal("The list of names is not UTF-8 text. Save it as UTF-8.", "names") from None
    sample = text[:2000]
    separator = ";" if sample.count(";") > sample.count(",") else ","
    rows = [row[0].strip() for row in csv.reader(io.StringIO(text), delimiter=separator) if row and row[0].strip()]
    if rows and rows[0].lower() in HEADERS:
        rows = rows[1:]
    if not rows:
        raise Refusal("The list holds no name. Write one name a line.", "names")
    if len(rows) > MAX_NAMES:
        raise Refusal(f"The list holds {len(rows)} names; at most {MAX_NAMES} are made at once.", "names")
    return rows


def one(recipe: Recipe, name: str) -> Recipe:
    """The recipe with a name for its words."""
    text = recipe.art.text
    if text is None:
        raise Refusal("A batch sets every name in the recipe's words: give the art as text.", "art.text")
    art = recipe.art.model_copy(update={"text": text.model_copy(update={"text": name})})
    return recipe.model_copy(update={"art": art})


def _made(job: tuple[Recipe, Path, float, bool, str]) -> Built | str:
    try:
        return made(*job)
    except Refusal as refusal:
        return refusal.message


def _files(names: Sequence[str], built: Sequence[Built], kind: str) -> dict[str, bytes]:
    digits = len(str(len(names)))
    return {
        f"{i + 1:0{digits}d}-{file_name(name)}.{kind}": b.data
        for i, (name, b) in enumerate(zip(names, built, strict=True))
    }


def _beds(names: Sequence[str], built: Sequence[Built], bed: tuple[float, float], spacing: float) -> dict[str, bytes]:
    sizes = [(float(b.report["size_mm"][0]), float(b.report["size_mm"][1])) for b in built]
    for name, size in zip(names, sizes, strict=True):
        if size[0] > bed[0] or size[1] > bed[1]:
            raise Refusal(f"{name} is {size[0]:.1f} × {size[1]:.1f} mm and does not fit the bed.", "bed")
    beds = packed(sizes, bed, spacing)
    result = {}
    for number, places in enumerate(beds):
        bodies = [
            replace(body, name=f"{names[i]}: {body.name}", mesh=_moved(body.mesh, x, y))
            for i, x, y in places
            for body in built[i].bodies
        ]
        result[f"bed-{number + 1}.3mf"] = write_3mf(bodies, {"Title": f"Bed {number + 1}"})
    return result


def packed(
    sizes: Sequence[tuple[float, float]], bed: tuple[float, float], spacing: float
) -> list[list[tuple[int, float, float]]]:
    """Places on beds, in shelves from the deepest piece to the shallowest: (number, x, y) for each bed."""
    order = sorted(range(len(sizes)), key=lambda i: (-sizes[i][1], -sizes[i][0], i))
    beds: list[list[tuple[int, float, float]]] = []
    shelves: list[list[float]] = []
    for i in order:
        width, depth = sizes[i]
        for number, rows in enumerate(beds):
            place = _on_shelf(shelves[number], width, depth, bed, spacing)
            if place is not None:
                rows.append((i, *place))
                break
        else:
            beds.append([(i, 0.0, 0.0)])
            shelves.append([0.0, depth, width + spacing])
    return [sorted(rows) for rows in beds]


def _on_shelf(
    shelf: list[float], width: float, depth: float, bed: tuple[float, float], spacing: float
) -> tuple[float, float] | None:
    """A place on the bed's last shelf (its y, its depth, how far it is filled), or on a new one behind it."""
    y, high, x = shelf
    if x + width <= bed[0] and depth <= high:
        shelf[2] = x + width + spacing
        return x, y
    behind = y + high + spacing
    if behind + depth <= bed[1]:
        shelf[:] = [behind, depth, width + spacing]
        return 0.0, behind
    return None


def _moved(mesh: Mesh, x: float, y: float) -> Mesh:
    # On whole steps of a coarse power of two 32-bit floats add without rounding.
    step = np.round(np.array([x, y, 0.0]) * 1024) / 1024
    return Mesh((mesh.vertices.astype(np.float64) + step).astype(np.float32), mesh.faces)
