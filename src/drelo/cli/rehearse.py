"""`drelo rehearse`: print a mesh file on a simulated printer: hours, grams, filament changes, what will not print."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Annotated, TypeVar

from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from drelo.cli import files
from drelo.core.errors import Refusal
from drelo.core.rehearsal.settings import PRESETS, Manner, Printer, Spool
from drelo.core.solid.seal import check_seal
from drelo.formats import foreign
from drelo.formats.layer_svg import layer_svg
from drelo.formats.recipe import field_path
from drelo.formats.stl import MAX_BYTES
from drelo.work.rehearsing import printed, spool_of

MAX_SETTINGS = 2**20
Model = TypeVar("Model", bound=BaseModel)
SPOOLS: TypeAdapter[list[Spool]] = TypeAdapter(Annotated[list[Spool], Field(max_length=1024)])


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, metavar="FILE.3mf|FILE.stl", help="the mesh to print")
    parser.add_argument("--printer", type=Path, default=None, metavar="P.json", help="the printer: bed, nozzle, speeds")
    parser.add_argument(
        "--filaments", type=Path, default=None, metavar="F.json", help="filaments, matched to bodies by colour"
    )
    parser.add_argument(
        "--manner",
        type=Path,
        default=None,
        metavar="M.json",
        help="how it is printed: layer height, walls, infill and so on",
    )
    parser.add_argument("--preset", choices=sorted(PRESETS), default=None, help="a preset in place of --manner")
    parser.add_argument("--copies", type=int, default=1, metavar="N", help="copies, on as many beds as they take")
    parser.add_argument("--report", type=Path, default=None, metavar="R.json", help="write all figures as JSON")
    parser.add_argument("--layers", type=Path, default=None, metavar="DIR", help="write an SVG of every layer")


def run(args: argparse.Namespace) -> None:
    if not 1 <= args.copies <= 1000:
        raise Refusal("command.copies")
    printer = _read(args.printer, "The printer", Printer)
    if args.preset and args.manner:
        raise Refusal("command.preset-and-manner")
    manner = PRESETS[args.preset] if args.preset else _read(args.manner, "The manner", Manner)
    shelf = _spools(args.filaments)
    bodies = foreign.mesh(files.read(args.file, "The mesh", MAX_BYTES), args.file.stem)
    for body in bodies:
        if not check_seal(body.mesh).sealed:
            raise Refusal("rehearsal.not-sealed", file=args.file.name, body=body.name)
    spools = [spool_of(body, shelf) for body in bodies]
    rehearsal, report = printed(bodies, spools, printer, manner, args.copies)
    if args.layers is not None:
        if args.layers.exists() and not args.layers.is_dir():
            raise Refusal("command.names-a-file-for-layers", path=args.layers)
        low = report.corner
        high = (low[0] + report.size[0], low[1] + report.size[1])
        digits = len(str(len(rehearsal.layers)))
        with files.together(args.layers) as folder:
            for number, layer in enumerate(rehearsal.layers, 1):
                parts = [(rehearsal.patterns[p.pattern], report.bodies[p.body].colour) for p in layer.parts]
                data = layer_svg(parts, low, high, f"Layer {number}, {layer.top:.2f} mm")
                (folder / f"layer-{number:0{digits}d}.svg").write_bytes(data)
    if args.report is not None:
        files.write(args.report, report.model_dump_json(indent=2).encode() + b"\n")
    minutes = round(report.seconds / 60)
    print(
        f"{minutes // 60} h {minutes % 60:02d} min, {report.grams:.1f} g, {report.metres:.2f} m, "
        f"{len(report.layers)} layers, {len(report.beds)} {'bed' if len(report.beds) == 1 else 'beds'}"
    )
    for change in report.changes:
        print(change.words)
    for trouble in report.troubles:
        where = f"x {trouble.at[0]:.1f}, y {trouble.at[1]:.1f}, z {trouble.z:.2f} mm"
        print(f"{trouble.kind}: layers {trouble.first} to {trouble.last}, {where}, {trouble.value:.2f}")


def _read(path: Path | None, what: str, model: type[Model]) -> Model:
    """A file of settings, else all that is usual. Raises Refusal naming the field."""
    if path is None:
        return model()
    try:
        return model.model_validate_json(files.read(path, what, MAX_SETTINGS))
    except ValidationError as error:
        raise _refused(error, what) from None


def _spools(path: Path | None) -> list[Spool]:
    if path is None:
        return []
    try:
        return SPOOLS.validate_json(files.read(path, "The filaments", MAX_SETTINGS))
    except ValidationError as error:
        raise _refused(error, "The filaments") from None


def _refused(error: ValidationError, what: str) -> Refusal:
    first = error.errors(include_url=False, include_input=False)[0]
    return Refusal("command.bad-table", field_path(first["loc"]), what=what, problem=first["msg"])
