"""A piece from a recipe: its art on the sheet, and all its numbers as choices that stay open to change."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import PurePath
from typing import Any

from pydantic import ValidationError

from drelo.core.errors import Refusal
from drelo.core.lettering.fonts import font_of
from drelo.core.lettering.layout import letters
from drelo.core.outline.outline import bounds
from drelo.core.outline.path_data import write_path
from drelo.core.picture.decode import DEFAULT_MM_PER_PX, decode
from drelo.core.piece.document import FILAMENTS, MAX_FILAMENTS, Document, Filament, Mark, RegionChoice
from drelo.core.piece.flat import FlatRegion
from drelo.formats.archive import read_zip
from drelo.formats.drawing_in import read_drawing
from drelo.formats.fonts import NAMES, shipped_font
from drelo.formats.recipe import Art, Recipe, TextOptions, TraceOptions, field_path, read_recipe

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
        loose.update(read_zip(data) if zipped else {name: data})
    by_name = {PurePath(name).name: data for name, data in loose.items()}
    recipes = [name for name in by_name if name.lower().endswith(".json")]
    if not recipes:
        raise Refusal("There is no recipe among these files: a .json file, or a .zip that holds one.", "files")
    if len(recipes) > 1:
        raise Refusal(f"There are {len(recipes)} recipes among these files. Choose one with its art.", "files")
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
                    **base.model_dump(exclude={"colour", "block"}),
                    "block": base.block,
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
        raise Refusal(f"The recipe does not fit a piece: {field}: {first['msg']}.", field) from None
    return RecipePiece(document, assets, tuple(remarks))


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
                mark=Mark(anchor=region.mark.anchor, box=region.mark.box),
                height=rule.height,
                filament=by_colour[(rule.colour or fill).lower()],
                name=rule.name[:120] or None,
                edge=rule.edge if "edge" in rule.model_fields_set else None,
            )
        )
    return tuple(found)


def _art(recipe: Recipe, files: Mapping[str, bytes]) -> tuple[dict[str, Any], dict[str, tuple[bytes, str]], list[str]]:
    """The document's fields that hold the art, the assets they name, and remarks."""
    art, names = recipe.art, {rule.fill.lower(): rule.name for rule in recipe.heights}
    if art.text is not None:
        return _words(art, art.text, files)
    name = PurePath(str(art.file)).name
    data = _named(files, name, "art.file")
    if name.lower().endswith((".svg", ".dxf")):
        drawing = read_drawing(data, name)
        side = art.width or art.height
        scale = 1.0 if side is None else side / (drawing.width if art.width else drawing.height or drawing.width)
        things = [
            {
                "kind": "path",
                "id": f"k{number}",
                "name": (thing.name or names.get(thing.colour.lower(), ""))[:120],
                "fill": thing.colour.lower(),
                "path": write_path([c.transformed(scale) for c in thing.contours]),
            }
            for number, thing in enumerate(drawing.things)
        ]
        return {"drawn": things}, {}, list(drawing.remarks)
    picture = decode(data)
    sha256 = hashlib.sha256(data).hexdigest()
    source = {"id": f"s{sha256[:10]}", "asset": sha256, "name": name[:120]}
    fields = {
        "source": {**source, "width": picture.width, "height": picture.height},
        **_tracing(art.trace),
        "size": _size(art, picture.width, picture.mm_per_px),
    }
    return fields, {sha256: (data, picture.media_type)}, []


def _words(
    art: Art, text: TextOptions, files: Mapping[str, bytes]
) -> tuple[dict[str, Any], dict[str, tuple[bytes, str]], list[str]]:
    shipped = text.font in NAMES
    data = shipped_font(text.font) if shipped else _named(files, PurePath(text.font).name, "art.text.font")
    sha256 = hashlib.sha256(data).hexdigest()
    scale = 1.0
    if art.width or art.height:
        box = bounds(letters(text.text, font_of(data), text.to_core())) or (0.0, 0.0, 1.0, 1.0)
        scale = art.width / (box[2] - box[0]) if art.width else (art.height or 1.0) / (box[3] - box[1])
    lettering = {
        "kind": "lettering",
        "id": "words",
        "fill": text.fill.lower(),
        "text": text.text,
        "font": f"font:{text.font}" if shipped else sha256,
        "at": (0.0, 0.0),
        "height": text.height * scale,
        "width": None if text.fit is None else text.fit * scale,
        "radius": text.radius * scale,
        **text.model_dump(include={"spacing", "leading", "align", "path"}),
    }
    return {"drawn": [lettering]}, {} if shipped else {sha256: (data, "font/sfnt")}, []


def _named(files: Mapping[str, bytes], name: str, field: str) -> bytes:
    if name not in files:
        raise Refusal(f"The recipe names the file {name}. Choose it together with the recipe.", field)
    return files[name]


def _tracing(options: TraceOptions) -> dict[str, Any]:
    numbers = options.model_dump(exclude={"area", "mm_per_px", "level"})
    trace = {**numbers, "level": None if options.level == "auto" else options.level}
    if options.background:
        trace["background"] = options.background.lower()
    if options.area is None:
        return {"trace": trace}
    x, y, w, h = options.area
    corners = ((x, y), (x + w, y), (x + w, y + h), (x, y + h))
    return {"trace": trace, "areas": [{"id": "a1", "name": "Area 1", "corners": corners, "trace": trace}]}


def _size(art: Art, width: int, mm_per_px: float | None) -> dict[str, Any]:
    if art.width is not None and art.height is not None:
        raise Refusal("Give the art's width or its height, not both: its proportions are kept.", "art.height")
    if art.width is None and art.height is None:
        scale = art.trace.mm_per_px or mm_per_px or DEFAULT_MM_PER_PX
        return {"side": "between", "mm": width * scale, "points": ((0.0, 0.0), (float(width), 0.0))}
    return {"side": "width" if art.width else "height", "mm": art.width or art.height}


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
    used: dict[str, str] = {recipe.base.colour.lower(): "Base"}
    for fill in dict.fromkeys(fills or [INK, *rules]):
        rule = rules.get(fill)
        used.setdefault(((rule and rule.colour) or fill).lower(), (rule and rule.name) or "")
    for rule in rules.values():
        used.setdefault((rule.colour or rule.fill).lower(), rule.name)
    if len(used) > MAX_FILAMENTS:
        raise Refusal(
            f"The recipe builds with {len(used)} colours; a piece has at most {MAX_FILAMENTS} filaments. "
            "Give several fills the same colour.",
            "heights",
        )
    return [
        names.get(colour) or Filament(id=f"f{number}", name=name[:120] or f"Filament {number + 1}", colour=colour)
        for number, (colour, name) in enumerate(used.items())
    ]
