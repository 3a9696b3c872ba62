"""The recipe file: everything that a headless build needs, as JSON."""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal, Self

from pydantic import Field, ValidationError, model_validator

from drelo.core.errors import Refusal
from drelo.core.form.base import MAX_BLOCK, MAX_MARGIN, MAX_THICKNESS, Base, BaseShape
from drelo.core.form.relief import MAX_HEIGHT
from drelo.core.lettering.layout import LEADING, MAX_LETTERS, Setting
from drelo.core.piece.form_numbers import (
    BaseNumbers,
    Colour,
    CutterOptions,
    EdgeOptions,
    NameplateOptions,
    ReliefOptions,
    StampOptions,
    Strict,
)
from drelo.core.trace.settings import ColourSettings, InkSettings, Settings, StrokeSettings

MAX_BYTES = 4 * 2**20
RecipeHeight = Annotated[float, Field(ge=-MAX_HEIGHT, le=MAX_HEIGHT, allow_inf_nan=False)] | Literal["through"]


class TraceOptions(Strict):
    """How a picture is traced; the options of `drelo trace`."""

    mode: Literal["ink", "colours", "strokes"] = "ink"
    colours: Annotated[int, Field(ge=2, le=24, description="Mode colours; without it, found.")] | None = None
    level: Annotated[float, Field(ge=0, le=1)] | Literal["auto"] = "auto"
    invert: bool = False
    speck: Annotated[float, Field(ge=0, description="px²; without it, found from the picture.")] | None = None
    smooth: Annotated[float, Field(ge=0, le=1)] = 0.5
    area: tuple[float, float, float, float] | None = Field(None, description="x, y, width, height in px.")
    mm_per_px: Annotated[float, Field(gt=0, le=1000)] | None = None
    keen: Annotated[float, Field(ge=0, le=1, description="0 rounds corners off, 1 finds the most.")] = 0.5
    pinhole: Annotated[float, Field(ge=0, description="px²; mode ink; without it, as speck.")] | None = None
    silhouette: Annotated[bool, Field(description="Mode ink: only the outer silhouette.")] = False
    background: Colour | Literal["none"] | None = Field(None, description="Mode colours: the colour that is no shape.")

    def to_core(self) -> Settings:
        """Settings of the mode."""
        level = None if self.level == "auto" else self.level
        if self.mode == "colours":
            background = self.background and self.background.lower()
            return ColourSettings(
                self.colours,
                background=background,
                speck=self.speck,
                smooth=self.smooth,
                area=self.area,
                keen=self.keen,
            )
        if self.mode == "strokes":
            return StrokeSettings(level, self.invert, self.speck, self.smooth, self.area, self.keen)
        return InkSettings(
            level,
            self.invert,
            self.speck,
            self.smooth,
            self.area,
            self.keen,
            self.silhouette,
            self.pinhole,
        )


class TextOptions(Strict):
    """Words as art; lengths in mm."""

    text: Annotated[str, Field(min_length=1, max_length=MAX_LETTERS, description="Lines are parted by \\n.")]
    font: Annotated[
        str, Field(min_length=1, description="script, sans, slab, serif, stencil, round, or a font file by the recipe.")
    ] = "script"
    height: Annotated[float, Field(gt=0, le=1000, description="Of capitals.")] = 12.0
    fit: Annotated[float | None, Field(gt=0, le=10_000, description="Width that the words are fitted to.")] = None
    spacing: Annotated[float, Field(ge=-1, le=5, description="Between letters, against the height.")] = 0.0
    leading: Annotated[float, Field(ge=0.2, le=10, description="Between lines, against the height.")] = LEADING
    align: Literal["left", "middle", "right"] = "middle"
    path: Literal["line", "above", "below"] = "line"
    radius: Annotated[float, Field(gt=0, le=10_000, description="Of the circle that the words follow.")] = 30.0
    fill: Colour = "#000000"

    def to_core(self) -> Setting:
        return Setting(self.height, self.fit, self.spacing, self.leading, self.align, self.path, self.radius)


class Art(Strict):
    """The flat art. Width or height (mm) scale the box of what is drawn; with neither, it keeps its own size."""

    file: Annotated[
        str | None, Field(min_length=1, description="SVG, DXF or picture; its path is relative to the recipe.")
    ] = None
    text: TextOptions | None = Field(None, description="Words in the place of a file.")
    width: Annotated[float, Field(gt=0, le=10_000, description="mm")] | None = None
    height: Annotated[float, Field(gt=0, le=10_000, description="mm")] | None = None
    trace: TraceOptions = Field(default_factory=TraceOptions.model_construct)

    @model_validator(mode="after")
    def _one_of_both(self) -> Self:
        if (self.file is None) == (self.text is None):
            raise ValueError("give the art as a file, or as text, and not both")
        return self


BlockSide = Annotated[float, Field(gt=0, le=MAX_BLOCK)]


class BaseOptions(Strict):
    """The plate under the art; lengths in mm."""

    shape: BaseShape = "outline"
    margin: Annotated[float, Field(ge=-MAX_MARGIN, le=MAX_MARGIN, description="Negative: smaller than the art.")] = 3.0
    thickness: Annotated[float, Field(gt=0, le=MAX_THICKNESS)] = 2.0
    corner_radius: Annotated[float, Field(ge=0, le=MAX_MARGIN)] = 0.0
    colour: Colour = "#30343b"
    block: tuple[BlockSide, BlockSide] = Field((80.0, 60.0), description="Width and depth of shape block, mm.")
    diameter: Annotated[BlockSide | None, Field(description="Of shape circle, instead of a margin.")] = None
    width: Annotated[
        BlockSide | None, Field(description="Of shape rectangle or block, with depth, instead of a margin.")
    ] = None
    depth: BlockSide | None = None
    at: Annotated[
        tuple[float, float] | None,
        Field(description="Its middle, mm from the lower left corner of the art's box; without it, the art's middle."),
    ] = None
    keep_holes: Annotated[bool, Field(description="Shape outline keeps the art's holes.")] = False

    @model_validator(mode="after")
    def _both_sides(self) -> Self:
        if (self.width is None) != (self.depth is None):
            raise ValueError("give the base's width and its depth, or neither")
        return self

    @property
    def sides(self) -> tuple[float, float] | None:
        return None if self.width is None or self.depth is None else (self.width, self.depth)

    def to_core(self) -> Base:
        return Base(
            self.shape,
            self.margin,
            self.thickness,
            self.corner_radius,
            self.colour.lower(),
            self.sides or self.block,
            self.keep_holes,
            self.sides,
            self.diameter,
            self.at,
        )

    @property
    def given(self) -> BaseNumbers:
        """What the recipe says of the base, for forms that have a plate of their own."""
        given = {name: getattr(self, name) for name in self.model_fields_set}
        own = self.sides or (self.block if self.shape == "block" else None)
        return BaseNumbers({**given, "sides": own, "diameter": self.diameter, "at": self.at})


class HeightRule(Strict):
    """What the shapes of one fill become."""

    fill: Colour
    height: Annotated[
        RecipeHeight,
        Field(description='mm above the base\'s top; negative sinks, 0 is flush, "through" cuts a hole.'),
    ]
    colour: Colour | None = Field(None, description="Filament; the fill when left out.")
    name: Annotated[str, Field(max_length=200)] = ""
    edge: EdgeOptions = EdgeOptions()
    hole: Annotated[bool, Field(description="Through everything on its place, in every form.")] = False


class FilamentName(Strict):
    """What the filament of a colour is called in a 3MF."""

    colour: Colour
    name: Annotated[str, Field(max_length=120)]
    material: Annotated[str, Field(max_length=40)] = ""


class Recipe(Strict):
    """A Drelo recipe, version 1."""

    drelo: Literal[1]
    units: Literal["mm"] = "mm"
    art: Art
    form: Literal["relief", "stamp", "cutter", "nameplate"] = "relief"
    base: BaseOptions = Field(default_factory=BaseOptions.model_construct)
    heights: tuple[HeightRule, ...] = ()
    default_height: RecipeHeight = 1.0
    default_edge: EdgeOptions = EdgeOptions()
    layer: Annotated[float, Field(ge=0.02, le=2, description="Of the print, mm; no step of an edge is higher.")] = 0.2
    filaments: Annotated[tuple[FilamentName, ...], Field(max_length=1024)] = ()
    relief: ReliefOptions = ReliefOptions()
    stamp: StampOptions = Field(default_factory=StampOptions.model_construct)
    cutter: CutterOptions = CutterOptions()
    nameplate: NameplateOptions = NameplateOptions()


def read_recipe(data: bytes) -> Recipe:
    """A recipe from JSON. Raises Refusal with the path of the wrong field."""
    if len(data) > MAX_BYTES:
        raise Refusal("recipe.too-large", megabytes=MAX_BYTES // 2**20)
    try:
        value = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise Refusal("recipe.not-json", reason=str(error)) from None
    if not isinstance(value, dict):
        raise Refusal("recipe.no-object")
    try:
        return Recipe.model_validate(value)
    except ValidationError as error:
        first = _plainest(error)
        path = field_path(first["loc"])
        raise Refusal("recipe.invalid", path, where=path or "recipe", problem=first["msg"]) from None


def _plainest(error: ValidationError) -> Any:
    return error.errors(include_url=False, include_context=False, include_input=False)[0]


def field_path(location: tuple[int | str, ...]) -> str:
    """`heights[1].height` from a validation error's location; names of union members are left out."""
    path = ""
    for part in location:
        if isinstance(part, int):
            path += f"[{part}]"
        elif not any(mark in part for mark in "([-") and part not in ("float", "int", "str"):
            path += f".{part}" if path else part
    return path


def recipe_schema() -> dict[str, Any]:
    """The recipe's JSON Schema, draft 2020-12."""
    schema = Recipe.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}
