"""`drelo build`: recipe to solid."""

from __future__ import annotations

import argparse
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.cli import files
from drelo.cli.stages import Stages
from drelo.core.errors import Refusal
from drelo.core.form.columns import Design
from drelo.core.form.cutter import cutter
from drelo.core.form.nameplate import nameplate
from drelo.core.form.relief import Height, Part, relief
from drelo.core.form.stamp import stamp
from drelo.core.lettering.fonts import MAX_BYTES as FONT_BYTES
from drelo.core.lettering.fonts import font_of
from drelo.core.lettering.layout import letters
from drelo.core.outline.contour import Contour
from drelo.core.outline.drawn import Drawn, Stroke, flattened
from drelo.core.picture.decode import DEFAULT_MM_PER_PX, MAX_BYTES, decode
from drelo.core.rehearsal.reach import beyond_reach
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.seal import check_seal
from drelo.core.trace.modes import trace
from drelo.formats import recipe as recipes
from drelo.formats.dxf_in import DxfArt, read_dxf
from drelo.formats.fonts import NAMES, shipped_font
from drelo.formats.recipe import Art, Recipe, TraceOptions
from drelo.formats.stl import read_stl, write_stl
from drelo.formats.svg_in import read_svg
from drelo.formats.threemf import Body, read_3mf, write_3mf

# Chord tolerance of curves, mm.
QUALITIES = {"draft": 0.05, "normal": 0.008, "fine": 0.002}


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("recipe", type=Path, metavar="RECIPE.json")
    parser.add_argument("-o", dest="out", type=out_file, required=True, metavar="OUT.stl|OUT.3mf")
    parser.add_argument("--report", type=Path, default=None, metavar="R.json", help="figures of the run")
    parser.add_argument("--quality", choices=list(QUALITIES), default="normal", help="fineness of curves")


def out_file(text: str) -> Path:
    path = Path(text)
    if path.suffix.lower() not in (".stl", ".3mf"):
        raise argparse.ArgumentTypeError("the output must end in .stl or .3mf")
    return path


@dataclass(frozen=True, eq=False)
class Built:
    """A file's bytes that were read back and checked, its bodies, and the figures of the run."""

    data: bytes
    bodies: tuple[Body, ...]
    report: dict[str, Any]


def run(args: argparse.Namespace) -> None:
    recipe = recipes.read_recipe(files.read(args.recipe, "The recipe", recipes.MAX_BYTES))
    flat = args.out.suffix.lower() == ".stl"
    built = made(recipe, args.recipe.parent, QUALITIES[args.quality], flat, args.recipe.stem)
    files.write(args.out, built.data)
    files.write_report(args.report, built.report)


def made(recipe: Recipe, folder: Path, tolerance: float, flat: bool, title: str) -> Built:
    """A recipe built, written, read back and checked. flat: as STL, else as 3MF.

    Raises Refusal when it cannot be built or would not be sealed.
    """
    stages = Stages()
    with stages.stage("read"):
        shapes, remarks = art_of(recipe.art, folder)
    with stages.stage("form"):
        design = design_of(recipe, shapes, tolerance)
    remarks += [*design.remarks, *(_unused(recipe, shapes) if recipe.form in ("relief", "nameplate") else [])]
    with stages.stage("arrange"):
        arrangement = arrange_design(design)
    with stages.stage("raise"):
        if flat:
            names = ", ".join(f.name for f in design.filaments)
            bodies = [Body(names, design.filaments[0].colour, raise_body(design, arrangement))]
        else:
            bodies = [
                Body(f.name, f.colour, raise_body(design, arrangement, i)) for i, f in enumerate(design.filaments)
            ]
            bodies = [b for b in bodies if len(b.mesh.faces)]
    with stages.stage("write"):
        data = write_stl(bodies[0].mesh) if flat else write_3mf(bodies, {"Title": title})
    with stages.stage("check"):
        read = [Body(bodies[0].name, bodies[0].colour, read_stl(data))] if flat else read_3mf(data)
        seals = [check_seal(body.mesh) for body in read]
    for body, seal in zip(read, seals, strict=True):
        if not seal.sealed:
            raise Refusal(f"The body “{body.name}” would not be sealed: {seal.problems[0]} Nothing was written.")
    whole = raise_body(design, arrangement) if not flat else read[0].mesh
    remarks += beyond_reach(whole.size)
    parts = int(whole.shells().max()) + 1
    report: dict[str, Any] = {
        "size_mm": [round(v, 6) for v in whole.size],
        "bodies": [
            {
                "name": body.name,
                "colour": body.colour,
                "volume_mm3": seal.volume,
                "area_mm2": seal.area,
                "triangles": seal.triangles,
                "sealed": seal.sealed,
            }
            for body, seal in zip(read, seals, strict=True)
        ],
        "separate_parts": parts,
        "seconds": stages.seconds,
        "warnings": remarks,
    }
    return Built(data, tuple(bodies), report)


def art_of(art: Art, folder: Path) -> tuple[list[Drawn], list[str]]:
    """The recipe's shapes: words, or what its file holds."""
    if art.text is None:
        return read_art(folder / str(art.file), art.trace)
    font = art.text.font
    data = shipped_font(font) if font in NAMES else files.read(folder / font, "The font", FONT_BYTES)
    try:
        outlines = letters(art.text.text, font_of(data), art.text.to_core())
    except Refusal as refusal:
        raise Refusal(refusal.message, f"art.text.{refusal.field}".rstrip(".")) from None
    missing = font_of(data).missing(art.text.text)
    remarks = [f"The font has no letter for {' '.join(missing)}."] if missing else []
    return [Drawn(o.contours, art.text.fill.lower(), even_odd=True) for o in outlines], remarks


def read_art(path: Path, options: TraceOptions) -> tuple[list[Drawn], list[str]]:
    """Shapes of an SVG, or of a traced picture, in painting order, mm, y down; and remarks."""
    data = files.read(path, "The art", MAX_BYTES)
    if path.suffix.lower() == ".svg":
        art = read_svg(data)
        return list(art.shapes), list(art.remarks)
    if path.suffix.lower() == ".dxf":
        return dxf_shapes(read_dxf(data))
    picture = decode(data)
    found = trace(picture, options.to_core())
    scale = options.mm_per_px or picture.mm_per_px or DEFAULT_MM_PER_PX
    if found.lines:
        lines = [line.transformed(scale) for line in found.lines]
        return [Drawn((n.contour,), "#000000", stroke=Stroke(n.width, n.cap, n.join)) for n in lines], []
    shapes = [Drawn(o.transformed(scale).contours, found.fill(i), even_odd=True) for i, o in enumerate(found.outlines)]
    return shapes, []


def dxf_shapes(art: DxfArt) -> tuple[list[Drawn], list[str]]:
    """Closed loops of a DXF by colour, holes by the even-odd rule; and remarks, on open lines among them."""
    loops: dict[str, list[Contour]] = {}
    for line in art.lines:
        if line.contour.closed:
            loops.setdefault(line.colour, []).append(line.contour)
    remarks = list(art.remarks)
    loose = sum(not line.contour.closed for line in art.lines)
    if loose:
        remarks.append(f"{loose} lines of the DXF are not closed and enclose nothing; they are not built.")
    if not loops:
        raise Refusal("No line of the DXF is closed, so there is nothing to build. Close its outlines.", "art.file")
    return [Drawn(tuple(contours), colour, even_odd=True) for colour, contours in loops.items()], remarks


def design_of(recipe: Recipe, shapes: list[Drawn], tolerance: float) -> Design:
    """The recipe's form, worked out."""
    areas = [(shape.colour, area) for shape, area in zip(shapes, placed(recipe.art, shapes, tolerance), strict=True)]
    plain = recipe.base.colour.lower()
    if recipe.form == "stamp":
        numbers = recipe.stamp.to_core(recipe.base.given, plain, recipe.layer)
        return stamp([area for _, area in areas], numbers, tolerance)
    if recipe.form == "cutter":
        return cutter([area for _, area in areas], recipe.cutter.to_core(plain, recipe.layer), tolerance)
    if recipe.form == "nameplate":
        plate = recipe.nameplate.to_core(recipe.base.given, plain)
        usual = recipe.default_height if "default_height" in recipe.model_fields_set else plate.letters
        return nameplate(_parts(recipe, areas, usual), plate, tolerance)
    parts = _parts(recipe, areas, recipe.default_height)
    return relief(parts, recipe.base.to_core(), tolerance, numbers=recipe.relief.to_core(recipe.layer))


def placed(art: Art, shapes: list[Drawn], tolerance: float) -> list[BaseGeometry]:
    """The shapes at their size, mm, y up."""
    scale = _scale(art, shapes, tolerance)
    # The drawing's y points down, the piece's up.
    turn = np.array([scale, -scale])
    return list(shapely.transform(np.array(flattened(shapes, tolerance / scale), object), lambda xy: xy * turn))


def _parts(recipe: Recipe, areas: list[tuple[str, BaseGeometry]], usual: Height) -> list[Part]:
    rules = {rule.fill.lower(): (i, rule) for i, rule in enumerate(recipe.heights)}
    parts = []
    for fill, area in areas:
        index, rule = rules.get(fill, (-1, None))
        if rule is None:
            parts.append(Part(area, usual, fill, "", "default_height", recipe.default_edge.to_core()))
        else:
            edge = rule.edge if "edge" in rule.model_fields_set else recipe.default_edge
            colour = (rule.colour or fill).lower()
            parts.append(Part(area, rule.height, colour, rule.name, f"heights[{index}].height", edge.to_core()))
    return parts


def _scale(art: Art, shapes: list[Drawn], tolerance: float) -> float:
    """Factor from the file's mm to the typed size; measured on the flattened shapes, so that the size is exact."""
    if art.width is None and art.height is None:
        return 1.0
    if art.width is not None and art.height is not None:
        raise Refusal("Give the art's width or its height, not both: its proportions are kept.", "art.height")
    factor = 1.0
    for _ in range(2):
        boxes = shapely.bounds(np.array(flattened(shapes, tolerance / factor), object))
        extent = np.nanmax(boxes[:, 2:], axis=0) - np.nanmin(boxes[:, :2], axis=0)
        side = float(extent[0] if art.width is not None else extent[1])
        if not side > 0:
            raise Refusal("The art has no extent in the direction of the typed size.", "art.width")
        factor = float(art.width or art.height or side) / side
    return factor


def _unused(recipe: Recipe, shapes: list[Drawn]) -> list[str]:
    drawn = {s.colour for s in shapes}
    return [
        f"No shape has the fill {r.fill}; its height is not used."
        for r in recipe.heights
        if r.fill.lower() not in drawn
    ]
