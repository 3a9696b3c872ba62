"""`drelo batch`: the same recipe for a list of names, each checked; as files, or packed on beds."""

from __future__ import annotations

import argparse
import os
import re
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from drelo.cli import files
from drelo.cli.build import QUALITIES, Built, made
from drelo.core.errors import Refusal
from drelo.formats import recipe as recipes
from drelo.formats.beds import Laid, write_beds
from drelo.formats.name_list import MAX_BYTES, read_names
from drelo.formats.names import file_name
from drelo.formats.recipe import Recipe


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
    laid = [Laid(n, tuple(b.bodies), size) for n, b, size in zip(names, built, sizes, strict=True)]
    return write_beds(laid, bed, spacing)
