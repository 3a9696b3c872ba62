"""`drelo batch`: build a recipe once for every name in a list, as single files or packed on beds; each is checked."""

from __future__ import annotations

import argparse
import os
import re
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import shapely
from shapely.geometry.base import BaseGeometry

from drelo.cli import files
from drelo.cli.build import QUALITIES, made
from drelo.core.errors import Refusal
from drelo.formats import recipe as recipes
from drelo.formats.beds import Laid, lay_out, write_bed
from drelo.formats.name_list import MAX_BYTES, read_names
from drelo.formats.names import file_name
from drelo.formats.recipe import Recipe
from drelo.formats.threemf import read_3mf


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("recipe", type=Path, metavar="RECIPE.json", help="what to build, with words in it")
    parser.add_argument("names", type=Path, metavar="NAMES.csv", help="one name to a line, or in a column")
    parser.add_argument("-o", dest="out", type=Path, required=True, metavar="DIR", help="where to write the files")
    parser.add_argument("--as", dest="kind", choices=["stl", "3mf"], default="stl", help="kind of file")
    parser.add_argument(
        "--bed",
        type=bed_size,
        default=None,
        metavar="WxD",
        help="pack on beds of this size, mm, with a 3MF for each bed",
    )
    parser.add_argument("--spacing", type=float, default=4.0, metavar="MM", help="gap between pieces on a bed, mm")
    parser.add_argument("--quality", choices=list(QUALITIES), default="normal", help="how finely curves are divided")
    parser.add_argument(
        "--report", type=Path, default=None, metavar="R.json", help="write the figures of the run as JSON"
    )


def bed_size(text: str) -> tuple[float, float]:
    match = re.fullmatch(r"(\d+(?:\.\d+)?)x(\d+(?:\.\d+)?)", text)
    if not match or min(float(v) for v in match.groups()) <= 0:
        raise argparse.ArgumentTypeError("a bed is written like 220x220")
    return float(match[1]), float(match[2])


def run(args: argparse.Namespace) -> None:
    recipe = recipes.read_recipe(files.read(args.recipe, "The recipe", recipes.MAX_BYTES))
    if recipe.art.text is None:
        raise Refusal("batch.no-text", "art.text")
    names = read_names(files.read(args.names, "The list of names", MAX_BYTES))
    if args.out.exists() and not args.out.is_dir():
        raise Refusal("command.names-a-file-for-pieces", path=args.out)
    flat = args.kind == "stl" and args.bed is None
    with files.together(args.out) as folder:
        order = [
            (one(recipe, name), args.recipe.parent, QUALITIES[args.quality], flat, name, folder / f"{number}.piece")
            for number, name in enumerate(names)
        ]
        done, wrong = _all(order)
        if wrong:
            if len(wrong) == 1:
                raise Refusal("batch.failed", first=wrong[0])
            raise Refusal("batch.failed-more", first=wrong[0], more=len(wrong) - 1)
        made_here = [job[-1] for job in order]
        outlines = [path.with_suffix(".outline") for path in made_here]
        if args.bed:
            footprints = [shapely.from_wkb(path.read_bytes()) for path in outlines]
            written = _beds(names, footprints, made_here, args.bed, args.spacing)
        else:
            written = _files(names, made_here, args.kind)
        for path in outlines:
            path.unlink()
    pieces = [{"name": name, **report} for name, report in zip(names, done, strict=True)]
    files.write_report(args.report, {"files": written, "pieces": pieces})


Job = tuple[Recipe, Path, float, bool, str, Path]


def _all(order: Sequence[Job]) -> tuple[list[dict[str, Any]], list[Refusal]]:
    """The reports of what was made, and what could not be; progress is told on the terminal."""
    done: list[dict[str, Any]] = []
    wrong: list[Refusal] = []
    with ProcessPoolExecutor(min(len(order), os.cpu_count() or 1)) as pool:
        for number, (job, found) in enumerate(zip(order, pool.map(_made, order), strict=True)):
            if isinstance(found, Refusal):
                wrong.append(Refusal("within", name=job[4], refusal=found))
            else:
                done.append(found)
            files.progress(number + 1, len(order), job[4])
    return done, wrong


def one(recipe: Recipe, name: str) -> Recipe:
    """The recipe with a name for its words."""
    text = recipe.art.text
    if text is None:
        raise Refusal("batch.no-text", "art.text")
    art = recipe.art.model_copy(update={"text": text.model_copy(update={"text": name})})
    return recipe.model_copy(update={"art": art})


def _made(job: Job) -> dict[str, Any] | Refusal:
    """Build one piece and write it to a file of its own; its report, or why it cannot be built."""
    recipe, folder, tolerance, flat, name, path = job
    try:
        built = made(recipe, folder, tolerance, flat, name)
    except Refusal as refusal:
        return refusal
    path.write_bytes(built.data)
    path.with_suffix(".outline").write_bytes(built.footprint)
    return built.report


def _files(names: Sequence[str], made: Sequence[Path], kind: str) -> list[str]:
    """Give every file its name."""
    digits = len(str(len(names)))
    written = [f"{i + 1:0{digits}d}-{file_name(name)}.{kind}" for i, name in enumerate(names)]
    for path, name in zip(made, written, strict=True):
        path.rename(path.with_name(name))
    return written


def _beds(
    names: Sequence[str],
    outlines: Sequence[BaseGeometry],
    made: Sequence[Path],
    bed: tuple[float, float],
    spacing: float,
) -> list[str]:
    """Lay the pieces on beds by their outlines, one bed in memory at a time."""
    written = []
    for number, places in enumerate(lay_out(names, outlines, bed, spacing), 1):
        laid = [Laid(names[i], tuple(read_3mf(made[i].read_bytes())), place) for i, place in places]
        written.append(f"bed-{number}.3mf")
        made[0].with_name(written[-1]).write_bytes(write_bed(f"Bed {number}", laid))
    for path in made:
        path.unlink()
    return written
