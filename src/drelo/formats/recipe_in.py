"""A piece from a recipe: its art on the sheet, and all its numbers as choices that stay open to change."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import PurePath
from typing import Any

from pydantic import ValidationError

from drelo.core.errors import Refusal
from drelo.core.outline.path_data import write_path
from drelo.core.picture.decode import DEFAULT_MM_PER_PX
from drelo.core.piece.applying import apply
from drelo.core.piece.document import FILAMENTS, MAX_RECIPE_FILAMENTS, MAX_SIZE, Document, Filament, RegionChoice
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.flat import FlatRegion
from drelo.core.piece.operations import SetSize
from drelo.core.piece.shaping import shaped
from drelo.formats import foreign
from drelo.formats.fonts import NAMES, shipped_font
from drelo.formats.recipe import Recipe, TextOptions, TraceOptions, field_path, read_recipe

# What is traced in one colour.
INK = "#000000"
ZIP_START = b"PK\x03\x04"


@dataclass(frozen=True)
class RecipePiece:
    """A piece without its regions' choices, the bytes and media types that it needs by hash, and remarks."""

    document: Document
    assets: Mapping[str, tuple[bytes, str]]
    remarks: tuple[str, ...] = ()


def gather_recipe(files: Mapping[str, bytes]) -> tuple[Recipe, Mapping[str, bytes], str]:
    """A recipe, the files that it may name, and a title, out of what was chosen: a ZIP, or a JSON file with its art.

    Raises Refusal when there is no recipe among them, or more than one.
    """
    loose: dict[str, bytes] = {}
    packed = ""
    for name, data in files.items():
        zipped = data.startswith(ZIP_START)
        packed = name if zipped else packed
        loose.update(foreign.archive(data) if zipped else {name: data})
    by_name = {PurePath(name).name: data for name, data in loose.items()}
    recipes = [name for name in by_name if name.lower().endswith(".json")]
    if not recipes:
        raise Refusal("recipe.missing", "files")
    if len(recipes) > 1:
        raise Refusal("recipe.several", "files", count=len(recipes))
    return read_recipe(by_name[recipes[0]]), by_name, PurePath(packed or recipes[0]).stem


def piece_of(recipe: Recipe, files: Mapping[str, bytes]) -> RecipePiece:
    """The piece that a recipe describes. Raises Refusal, naming the field, where its art cannot be used."""
    art, assets, remarks = _art(recipe, files)
    filaments = _filaments(recipe, [thing["fill"] for thing in art.get("drawn", ()) if thing["fill"]])
    by_colour = {f.colour: f.id for f in filaments}
    base = recipe.base
    try:
        document = Document.model_validate(
            {
                **art,
                "form": recipe.form,
                "layer": recipe.layer,
                "base": {
                    **base.model_dump(exclude={"colour", "block", "width", "depth", "at"}),
                    "block": base.sides if base.shape == "block" and base.sides else base.block,
                    "sides": base.sides,
                    "filament": by_colour[base.colour.lower()],
                },
                "relief": recipe.relief,
                **_form_numbers(recipe),
                "default_height": _usual_height(recipe),
                "default_edge": recipe.default_edge,
                "default_filament": by_colour.get(INK, filaments[0].id),
                "filaments": filaments,
            }
        )
    except ValidationError as error:
        first: Any = error.errors(include_url=False, include_context=False, include_input=False)[0]
        field = field_path(first["loc"])
        raise Refusal("recipe.does-not-fit", field, field=field, problem=first["msg"]) from None
    return RecipePiece(document, assets, tuple(remarks))


def sized(recipe: Recipe, document: Document, evaluation: Evaluation) -> Document:
    """The piece at the size that its recipe gives, and its base at its place."""
    art = recipe.art
    side = art.width or art.height
    if side is not None and side > MAX_SIZE:
        raise Refusal("recipe.too-wide", "art.width" if art.width else "art.height", most=MAX_SIZE)
    if side is not None:
        size = SetSize(side="width" if art.width else "height", mm=side)
        document = apply(document, shaped(evaluation.workshop(document), size))
    box = evaluation.box(document)
    if recipe.base.at is None or box is None:
        return document
    x, y = recipe.base.at
    return document.model_copy(update={"base": document.base.model_copy(update={"at": (box[0] + x, box[3] - y)})})


def choices_of(recipe: Recipe, document: Document, regions: Sequence[FlatRegion]) -> tuple[RegionChoice, ...]:
    """What the recipe's rules decide for the regions of its piece."""
    rules = {rule.fill.lower(): rule for rule in recipe.heights}
    by_colour = {f.colour: f.id for f in document.filaments}
    fills = {thing.id: thing.fill for thing in document.drawn}
    found = []
    for region in regions:
        fill = (region.drawn and fills.get(region.drawn)) or region.colour or INK
        rule = rules.get(fill)
        if rule is None:
            continue
        found.append(
            RegionChoice(
                id=region.id,
                mark=region.mark,
                height=rule.height,
                filament=by_colour[(rule.colour or fill).lower()],
                name=rule.name[:120] or None,
                edge=rule.edge if "edge" in rule.model_fields_set else None,
            )
        )
    return tuple(found)


def _art(recipe: Recipe, files: Mapping[str, bytes]) -> tuple[dict[str, Any], dict[str, tuple[bytes, str]], list[str]]:
    """The document's fields that hold the art, the assets they name, and remarks."""
    if recipe.art.width is not None and recipe.art.height is not None:
        raise Refusal("art.two-sizes", "art.height")
    art, names = recipe.art, {rule.fill.lower(): rule.name for rule in recipe.heights}
    if art.text is not None:
        return _words(art.text, files)
    name = PurePath(str(art.file)).name
    data = _named(files, name, "art.file")
    if name.lower().endswith((".svg", ".dxf")):
        drawing = foreign.drawing(data, name)
        holes = {rule.fill.lower() for rule in recipe.heights if rule.hole}
        things = [
            {
                "kind": "path",
                "id": f"k{number}",
                "name": (thing.name or names.get(thing.colour.lower(), ""))[:120],
                "fill": thing.colour.lower(),
                "path": write_path(thing.contours),
                "hole": thing.colour.lower() in holes,
            }
            for number, thing in enumerate(drawing.things)
        ]
        return {"drawn": things}, {}, list(drawing.remarks)
    picture = foreign.picture(data)
    sha256 = hashlib.sha256(data).hexdigest()
    source = {"id": f"s{sha256[:10]}", "asset": sha256, "name": name[:120]}
    place = {"mm_per_px": art.trace.mm_per_px or picture.mm_per_px or DEFAULT_MM_PER_PX}
    size = {"width": picture.width, "height": picture.height}
    placed = {**source, **size, "place": place, **_tracing(art.trace, place["mm_per_px"])}
    return {"pictures": [placed]}, {sha256: (data, picture.media_type)}, []


def _words(
    text: TextOptions, files: Mapping[str, bytes]
) -> tuple[dict[str, Any], dict[str, tuple[bytes, str]], list[str]]:
    shipped = text.font in NAMES
    data = shipped_font(text.font) if shipped else _named(files, PurePath(text.font).name, "art.text.font")
    if not shipped:
        foreign.check_font(data)
    sha256 = hashlib.sha256(data).hexdigest()
    lettering = {
        "kind": "lettering",
        "id": "words",
        "fill": text.fill.lower(),
        "text": text.text,
        "font": f"font:{text.font}" if shipped else sha256,
        "at": (0.0, 0.0),
        "height": text.height,
        "width": text.fit,
        "radius": text.radius,
        **text.model_dump(include={"spacing", "leading", "align", "path"}),
    }
    return {"drawn": [lettering]}, {} if shipped else {sha256: (data, "font/sfnt")}, []


def _named(files: Mapping[str, bytes], name: str, field: str) -> bytes:
    if name not in files:
        raise Refusal("recipe.file-missing", field, name=name)
    return files[name]


def _tracing(options: TraceOptions, mm_per_px: float) -> dict[str, Any]:
    numbers = options.model_dump(exclude={"area", "mm_per_px", "level"})
    trace = {**numbers, "level": None if options.level == "auto" else options.level}
    if options.background:
        trace["background"] = options.background.lower()
    if options.area is None:
        return {"trace": trace}
    x, y, w, h = (v * mm_per_px for v in options.area)
    corners = ((x, y), (x + w, y), (x + w, y + h), (x, y + h))
    return {"trace": trace, "areas": [{"id": "a1", "name": "Area 1", "corners": corners, "trace": trace}]}


def _form_numbers(recipe: Recipe) -> dict[str, Any]:
    """Stamp, cutter and nameplate; the built form's plate is as the recipe's base says where it says nothing itself."""
    forms: dict[str, Any] = {"stamp": recipe.stamp, "cutter": recipe.cutter, "nameplate": recipe.nameplate}
    if recipe.form in ("stamp", "nameplate"):
        own = recipe.stamp if recipe.form == "stamp" else recipe.nameplate
        worked = (
            recipe.stamp.to_core(recipe.base.given, INK, recipe.layer)
            if recipe.form == "stamp"
            else recipe.nameplate.to_core(recipe.base.given, INK)
        )
        plate = {name: getattr(worked, name) for name in ("margin", "corner_radius", "thickness")}
        if worked.shape in ("outline", "rectangle", "circle"):
            plate["shape"] = worked.shape
        forms[recipe.form] = own.model_copy(update=plate)
    return forms


def _usual_height(recipe: Recipe) -> float | str:
    if recipe.form == "nameplate" and "default_height" not in recipe.model_fields_set:
        return recipe.nameplate.letters
    return recipe.default_height


def _filaments(recipe: Recipe, fills: Sequence[str]) -> list[Filament]:
    """A filament for each colour that the recipe builds with."""
    rules = {rule.fill.lower(): rule for rule in recipe.heights}
    names = {f.colour: f for f in FILAMENTS}
    for number, told in enumerate(recipe.filaments):
        colour = told.colour.lower()
        names[colour] = Filament(id=f"r{number}", name=told.name, colour=colour, material=told.material)
    used: dict[str, str] = {recipe.base.colour.lower(): "Base"}
    for fill in dict.fromkeys(fills or [INK, *rules]):
        rule = rules.get(fill)
        used.setdefault(((rule and rule.colour) or fill).lower(), (rule and rule.name) or "")
    for rule in rules.values():
        used.setdefault((rule.colour or rule.fill).lower(), rule.name)
    if len(used) > MAX_RECIPE_FILAMENTS:
        raise Refusal("recipe.too-many-colours", "heights", count=len(used), most=MAX_RECIPE_FILAMENTS)
    return [
        names.get(colour) or Filament(id=f"f{number}", name=name[:120] or f"Filament {number + 1}", colour=colour)
        for number, (colour, name) in enumerate(used.items())
    ]
