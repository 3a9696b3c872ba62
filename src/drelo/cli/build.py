"""`drelo build`: build the solid of a recipe."""

from __future__ import annotations

import argparse
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.cli import files
from drelo.cli.stages import Stages
from drelo.core.errors import Refusal
from drelo.core.form.order import Order, design_of, laid, ordered
from drelo.core.form.relief import Height, Part
from drelo.core.outline.contour import Contour
from drelo.core.outline.drawn import Drawn, Stroke, flattened
from drelo.core.picture.decode import DEFAULT_MM_PER_PX, MAX_BYTES
from drelo.core.remark import Remark
from drelo.core.solid.making import Body
from drelo.formats import foreign
from drelo.formats import recipe as recipes
from drelo.formats.fonts import NAMES, shipped_font
from drelo.formats.product import Wrapping, product_of, raised
from drelo.formats.recipe import Art, Recipe, TraceOptions

# A factor nearer to 1 than this is there to make a typed side exact.
HAIR = 1e-3
# Chord tolerance of curves, mm.
QUALITIES = {"draft": 0.05, "normal": 0.008, "fine": 0.002}


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("recipe", type=Path, metavar="RECIPE.json", help="what to build: docs/recipe.md")
    parser.add_argument(
        "-o", dest="out", type=out_file, required=True, metavar="OUT.stl|OUT.3mf", help="where to write it"
    )
    parser.add_argument(
        "--report", type=Path, default=None, metavar="R.json", help="write the figures of the run as JSON"
    )
    parser.add_argument("--quality", choices=list(QUALITIES), default="normal", help="how finely curves are divided")


def out_file(text: str) -> Path:
    path = Path(text)
    if path.suffix.lower() not in (".stl", ".3mf"):
        raise argparse.ArgumentTypeError("the output must end in .stl or .3mf")
    return path


if TYPE_CHECKING:
    from drelo.formats.dxf_in import DxfArt


@dataclass(frozen=True, eq=False)
class Built:
    """A file's bytes that were read back and checked, its bodies, and the figures of the run."""

    data: bytes
    bodies: tuple[Body, ...]
    footprint: bytes
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
        order, left_out = order_of(recipe, shapes, tolerance)
        design = design_of(order, tolerance)
    remarks += [*map(str, left_out), *(_unused(recipe, shapes) if recipe.form in ("relief", "nameplate") else [])]
    solid = raised(design, stages.stage)
    product = product_of(solid, "stl" if flat else "3mf", Wrapping(title, materials=_materials(recipe)), stages.stage)
    report: dict[str, Any] = {
        "size_mm": [round(v, 6) for v in product.size],
        "bodies": [
            {
                "name": body.name,
                "colour": body.colour,
                "volume_mm3": body.volume,
                "area_mm2": body.area,
                "triangles": body.triangles,
                "sealed": body.sealed,
            }
            for body in product.bodies
        ],
        "separate_parts": product.parts,
        "seconds": stages.seconds,
        "warnings": [*product.remarks, *remarks],
    }
    return Built(product.data, (solid.flat_body,) if flat else solid.bodies, product.footprint, report)


def _materials(recipe: Recipe) -> dict[str, str]:
    return {f.colour.lower(): f"{f.name} {f.material}".strip() for f in reversed(recipe.filaments)}


def art_of(art: Art, folder: Path) -> tuple[list[Drawn], list[str]]:
    """The recipe's shapes: words, or what its file holds."""
    if art.text is None:
        return read_art(folder / str(art.file), art.trace)
    # Loaded where words are set: no other recipe needs a shaper.
    from drelo.core.lettering.fonts import MAX_BYTES as FONT_BYTES
    from drelo.core.lettering.fonts import font_of
    from drelo.core.lettering.layout import letters

    font = art.text.font
    data = shipped_font(font) if font in NAMES else files.read(folder / font, "The font", FONT_BYTES)
    try:
        if font not in NAMES:
            foreign.check_font(data)
        outlines = letters(art.text.text, font_of(data), art.text.to_core())
    except Refusal as refusal:
        raise refusal.at(f"art.text.{refusal.field}".rstrip(".")) from None
    missing = font_of(data).missing(art.text.text)
    remarks = [f"The font has no letter for {' '.join(missing)}."] if missing else []
    return [Drawn(o.contours, art.text.fill.lower(), even_odd=True) for o in outlines], remarks


def read_art(path: Path, options: TraceOptions) -> tuple[list[Drawn], list[str]]:
    """Shapes of an SVG, or of a traced picture, in painting order, mm, y down; and remarks."""
    data = files.read(path, "The art", MAX_BYTES)
    if path.suffix.lower() == ".svg":
        art = foreign.svg(data)
        return list(art.shapes), list(art.remarks)
    if path.suffix.lower() == ".dxf":
        return dxf_shapes(foreign.dxf(data))
    picture = foreign.picture(data)
    from drelo.core.trace.modes import trace
    from drelo.core.trace.trace import BLACK

    found = trace(picture, options.to_core())
    scale = options.mm_per_px or picture.mm_per_px or DEFAULT_MM_PER_PX
    middles, shapes = found.lines_and_shapes
    lines = [line.transformed(scale) for line in middles]
    return [
        *(Drawn(o.transformed(scale).contours, found.fill(i), even_odd=True) for i, o in enumerate(shapes)),
        *(Drawn((n.contour,), BLACK, stroke=Stroke(n.width, n.cap, n.join)) for n in lines),
    ], []


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
        raise Refusal("dxf.nothing-closed", "art.file")
    return [Drawn(tuple(contours), colour, even_odd=True) for colour, contours in loops.items()], remarks


def order_of(recipe: Recipe, shapes: list[Drawn], tolerance: float) -> tuple[Order, list[Remark]]:
    """What the recipe orders to be built, and remarks on what is left out of it."""
    areas = [(shape.colour, area) for shape, area in zip(shapes, placed(recipe.art, shapes, tolerance), strict=True)]
    plain = recipe.base.colour.lower()
    base, given = recipe.base.to_core(), recipe.base.given
    usual = recipe.default_height
    match recipe.form:
        case "stamp":
            numbers: Any = recipe.stamp.to_core(given, plain, recipe.layer)
        case "cutter":
            numbers = recipe.cutter.to_core(plain, recipe.layer)
        case "nameplate":
            numbers = recipe.nameplate.to_core(given, plain)
            usual = recipe.default_height if "default_height" in recipe.model_fields_set else numbers.letters
        case "relief":
            numbers = recipe.relief.to_core(recipe.layer)
    return ordered(_parts(recipe, areas, usual), numbers, base)


def placed(art: Art, shapes: list[Drawn], tolerance: float) -> list[BaseGeometry]:
    """The shapes at their size, mm, y up, the box of all at 0, 0."""
    scale = _scale(art, shapes, tolerance)
    return laid(flattened(shapes, _chord(tolerance, scale)), scale)


def _chord(tolerance: float, factor: float) -> float:
    """The chord tolerance before shapes grow by a factor; a hair's growth changes no chord."""
    return tolerance if abs(factor - 1) < HAIR else tolerance / factor


def _parts(recipe: Recipe, areas: list[tuple[str, BaseGeometry]], usual: Height) -> list[Part]:
    rules = {rule.fill.lower(): (i, rule) for i, rule in enumerate(recipe.heights)}
    parts = []
    for number, (fill, area) in enumerate(areas):
        index, rule = rules.get(fill, (-1, None))
        if rule is None:
            edge = recipe.default_edge.to_core()
            parts.append(Part(area, usual, fill, "", "default_height", edge, number))
            continue
        edge = (rule.edge if "edge" in rule.model_fields_set else recipe.default_edge).to_core()
        colour, field = (rule.colour or fill).lower(), f"heights[{index}].height"
        height: Height = "through" if rule.hole else rule.height
        parts.append(Part(area, height, colour, rule.name, field, edge, number, rule.hole))
    return parts


def _scale(art: Art, shapes: list[Drawn], tolerance: float) -> float:
    """Factor from the file's mm to the typed size; measured on the flattened shapes, so that the size is exact."""
    if art.width is None and art.height is None:
        return 1.0
    if art.width is not None and art.height is not None:
        raise Refusal("art.two-sizes", "art.height")
    factor = 1.0
    for _ in range(2):
        boxes = shapely.bounds(np.array(flattened(shapes, _chord(tolerance, factor)), object))
        extent = np.nanmax(boxes[:, 2:], axis=0) - np.nanmin(boxes[:, :2], axis=0)
        side = float(extent[0] if art.width is not None else extent[1])
        if not side > 0:
            raise Refusal("art.no-extent-that-way", "art.width")
        factor = float(art.width or art.height or side) / side
    return factor


def _unused(recipe: Recipe, shapes: list[Drawn]) -> list[str]:
    drawn = {s.colour for s in shapes}
    return [
        f"No shape has the fill {r.fill}; its height is not used."
        for r in recipe.heights
        if r.fill.lower() not in drawn
    ]
