"""The piece document: all that the maker decided, and nothing that can be computed."""

from __future__ import annotations

import hashlib
import json
import math
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from drelo.core.form.base import MAX_BLOCK, MAX_MARGIN, MAX_THICKNESS, BaseShape
from drelo.core.form.relief import MAX_HEIGHT
from drelo.core.outline.path_data import MAX_LENGTH
from drelo.core.picture.care import Crop, EvenLight, Flatten, Level, Rub, Step
from drelo.core.picture.palette import MAX_COLOURS, MIN_COLOURS
from drelo.core.piece.drawn import MAX_DRAWN
from drelo.core.piece.drawn import Colour as Colour
from drelo.core.piece.drawn import Coordinate as Coordinate
from drelo.core.piece.drawn import Drawn as Drawn
from drelo.core.piece.drawn import Frozen as Frozen
from drelo.core.piece.drawn import Identifier as Identifier
from drelo.core.piece.drawn import Name as Name
from drelo.core.piece.drawn import Point as Point
from drelo.core.piece.drawn import Symmetry as Symmetry
from drelo.core.piece.form_numbers import (
    CutterOptions,
    EdgeOptions,
    NameplateOptions,
    ReliefOptions,
    StampOptions,
)
from drelo.core.trace.area import MAX_CORNERS, Fence
from drelo.core.trace.colours import ColourSettings
from drelo.core.trace.ink import InkSettings
from drelo.core.trace.modes import Mode, Settings
from drelo.core.trace.pen import Kind
from drelo.core.trace.strokes import StrokeSettings

MAX_SIZE = 2000.0
MAX_FILAMENTS = 16
MAX_CARE = 40
MAX_AREAS = 24
MAX_ATTEMPTS = 24
MAX_PEN = 400
MAX_STRETCHES = 1000
# Two points (px) by which a picture is scaled lie at least so far apart.
MIN_BETWEEN = 2.0

RegionHeight = Annotated[float, Field(ge=-MAX_HEIGHT, le=MAX_HEIGHT, allow_inf_nan=False)] | Literal["through"]
Group = Annotated[tuple[Colour, ...], Field(min_length=1, max_length=MAX_COLOURS)]
Palette = Annotated[tuple[Group, ...], Field(min_length=MIN_COLOURS, max_length=MAX_COLOURS)]
Box = tuple[Coordinate, Coordinate, Coordinate, Coordinate]


class Identified(Frozen):
    id: Identifier


Permission = Literal["mine", "free", "asked", "unknown"]
PERMISSION_WORDS: dict[Permission, str] = {
    "mine": "The maker's own picture.",
    "free": "Under a free licence.",
    "asked": "Used with permission.",
    "unknown": "",
}


class CareBase(Frozen):
    """off: the step is taken back for now."""

    off: bool = False


class CropStep(CareBase):
    """Only this box stays: x, y, width, height in px of the picture as the steps before leave it."""

    do: Literal["crop"] = "crop"
    box: Box

    def to_core(self) -> Step:
        return Crop(self.box)


class LevelStep(CareBase):
    """Turn the picture so that the line lies level or upright."""

    do: Literal["level"] = "level"
    start: Point
    end: Point

    def to_core(self) -> Step:
        return Level(self.start, self.end)


class FlattenStep(CareBase):
    """Four corners of a sheet that was seen at an angle."""

    do: Literal["flatten"] = "flatten"
    corners: tuple[Point, Point, Point, Point]

    def to_core(self) -> Step:
        return Flatten(self.corners)


class EvenStep(CareBase):
    """Paper becomes equally bright everywhere."""

    do: Literal["even"] = "even"

    def to_core(self) -> Step:
        return EvenLight()


class RubStep(CareBase):
    """What lies within `radius` px of the line through the points becomes paper."""

    do: Literal["rub"] = "rub"
    points: Annotated[tuple[Point, ...], Field(min_length=1, max_length=2000)]
    radius: Annotated[float, Field(gt=0, le=2000)]

    def to_core(self) -> Step:
        return Rub(self.points, self.radius)


CareStep = Annotated[CropStep | LevelStep | FlattenStep | EvenStep | RubStep, Field(discriminator="do")]


class Source(Frozen):
    """A picture: the hash of its bytes, what its file was called, and its upright size in px.

    origin: where it came from, in the maker's words. permission: by what right it is used.
    care: what is done to it, in order, before it is traced.
    whole: a very large picture is worked on at its full resolution.
    """

    id: Identifier
    asset: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    name: Name
    width: Annotated[int, Field(gt=0)]
    height: Annotated[int, Field(gt=0)]
    origin: Annotated[str, Field(max_length=400)] = ""
    permission: Permission = "unknown"
    care: Annotated[tuple[CareStep, ...], Field(max_length=MAX_CARE)] = ()
    whole: bool = False

    @property
    def steps(self) -> tuple[Step, ...]:
        """Picture care, in order, without what is taken back."""
        return tuple(step.to_core() for step in self.care if not step.off)

    @property
    def look(self) -> str:
        """A name for how the picture looks after its care; the same look, the same name."""
        done = [step.model_dump(exclude={"off"}) for step in self.care if not step.off]
        content = json.dumps([self.asset, done])
        return hashlib.sha256(content.encode()).hexdigest()


class TraceSettings(Frozen):
    """How the picture is traced. level 0..1, speck px² and colours are found when left out; width in px.

    What belongs to another mode waits until that mode is chosen again.
    """

    mode: Mode = "ink"
    level: Annotated[float, Field(ge=0, le=1)] | None = None
    invert: bool = False
    speck: Annotated[float, Field(ge=0, le=1e9)] | None = None
    smooth: Annotated[float, Field(ge=0, le=1)] = 0.5
    keen: Annotated[float, Field(ge=0, le=1)] = 0.5
    silhouette: bool = False
    colours: Annotated[int, Field(ge=MIN_COLOURS, le=MAX_COLOURS)] | None = None
    palette: Palette | None = None
    background: Colour | Literal["none"] | None = None
    width: Annotated[float, Field(gt=0, le=1e4)] | None = None
    pinhole: Annotated[float, Field(ge=0, le=1e9)] | None = None
    local: bool | None = None

    def to_core(self, fence: tuple[Point, ...] | None = None) -> Settings:
        """Settings of the mode; fence: only this free area, px."""
        area = None if fence is None else Fence(fence)
        if self.mode == "colours":
            return ColourSettings(
                self.colours, self.palette, self.background, self.speck, self.smooth, area, keen=self.keen
            )
        if self.mode == "strokes":
            return StrokeSettings(
                self.level, self.invert, self.speck, self.smooth, area, self.keen, self.width, self.local
            )
        return InkSettings(
            self.level,
            self.invert,
            self.speck,
            self.smooth,
            area,
            self.keen,
            self.silhouette,
            self.pinhole,
            self.local,
        )


class PictureArea(Identified):
    """Only here: a part of the picture with its own settings. corners: of a polygon, px of the picture after care."""

    name: Name
    corners: Annotated[tuple[Point, ...], Field(min_length=3, max_length=MAX_CORNERS)]
    trace: TraceSettings


class Attempt(Identified):
    """A trial trace that was kept to compare: all its settings, and those of its areas."""

    name: Name
    trace: TraceSettings
    areas: Annotated[tuple[PictureArea, ...], Field(max_length=MAX_AREAS)] = ()


class PenStretch(Frozen):
    """From where the one before ended: clinging to an edge, straight, or a curve through points."""

    kind: Kind
    to: Point


class PenLine(Identified):
    """What the pen drew over the picture: where it was set, px of the picture after care."""

    name: Name
    start: Point
    stretches: Annotated[tuple[PenStretch, ...], Field(min_length=1, max_length=MAX_STRETCHES)]
    closed: bool = False


class Size(Frozen):
    """How large the art is: one side of its box typed, or what lies between two points of the picture, px."""

    side: Literal["width", "height", "between"] = "width"
    mm: Annotated[float, Field(gt=0.5, le=MAX_SIZE)] = 60.0
    points: tuple[Point, Point] | None = None

    @model_validator(mode="after")
    def _two_points(self) -> Self:
        if self.side == "between" and (self.points is None or math.dist(*self.points) < MIN_BETWEEN):
            raise ValueError("mark two points of the picture that lie apart")
        return self


class Mark(Frozen):
    """How a region is recognised again: a point inside it and its box, both in px of its picture."""

    anchor: Point
    box: Box


class RegionChoice(Frozen):
    """What the maker decided for one region; what is left out follows the piece."""

    id: Identifier
    mark: Mark
    height: RegionHeight | None = None
    filament: Identifier | None = None
    name: Name | None = None
    left_out: bool = False
    edge: EdgeOptions | None = None


class Mend(Frozen):
    """A manual change to a traced outline: as it was traced, and as it is now, path data in px.

    mark: how the outline is recognised again. Traced otherwise, what was changed is done again where it still fits.
    """

    id: Identifier
    mark: Mark
    was: Annotated[str, Field(max_length=MAX_LENGTH)]
    now: Annotated[str, Field(max_length=MAX_LENGTH)]


class Filament(Identified):
    name: Name
    colour: Colour


BlockSide = Annotated[float, Field(gt=0, le=MAX_BLOCK)]
Form = Literal["relief", "stamp", "cutter", "nameplate"]


class BasePlate(Frozen):
    """Lengths in mm."""

    shape: BaseShape = "outline"
    margin: Annotated[float, Field(ge=0, le=MAX_MARGIN)] = 3.0
    thickness: Annotated[float, Field(gt=0, le=MAX_THICKNESS)] = 2.0
    corner_radius: Annotated[float, Field(ge=0, le=MAX_MARGIN)] = 4.0
    filament: Identifier = "night"
    block: tuple[BlockSide, BlockSide] = (80.0, 60.0)
    keep_holes: bool = False


FILAMENTS = (
    Filament(id="night", name="Night", colour="#2e3a4d"),
    Filament(id="cream", name="Cream", colour="#efe3c8"),
    Filament(id="moss", name="Moss", colour="#b9c24a"),
    Filament(id="leaf", name="Leaf", colour="#3f6b3a"),
    Filament(id="clay", name="Clay", colour="#c26a4a"),
)


class Document(Frozen):
    """One piece. Heights in mm above the base's top.

    trace: how the whole picture is traced; where there are areas, only they are, each in its own way.
    tracing: off, only what was drawn counts. drawn: things on the sheet, the last one on top.
    form: what is built; each form has numbers of its own. layer, nozzle: of the print, mm.
    mends: manual changes to traced outlines. symmetry: how what is drawn next is repeated.
    """

    version: Literal[1] = 1
    source: Source | None = None
    trace: TraceSettings = TraceSettings()
    tracing: bool = True
    areas: Annotated[tuple[PictureArea, ...], Field(max_length=MAX_AREAS)] = ()
    attempts: Annotated[tuple[Attempt, ...], Field(max_length=MAX_ATTEMPTS)] = ()
    pen: Annotated[tuple[PenLine, ...], Field(max_length=MAX_PEN)] = ()
    drawn: Annotated[tuple[Drawn, ...], Field(max_length=MAX_DRAWN)] = ()
    mends: Annotated[tuple[Mend, ...], Field(max_length=MAX_DRAWN)] = ()
    symmetry: Symmetry | None = None
    size: Size = Size()
    form: Form = "relief"
    relief: ReliefOptions = Field(default_factory=ReliefOptions.model_construct)
    stamp: StampOptions = Field(default_factory=StampOptions.model_construct)
    cutter: CutterOptions = Field(default_factory=CutterOptions.model_construct)
    nameplate: NameplateOptions = Field(default_factory=NameplateOptions.model_construct)
    layer: Annotated[float, Field(ge=0.02, le=2)] = 0.2
    nozzle: Annotated[float, Field(ge=0.1, le=2)] = 0.4
    base: BasePlate = BasePlate()
    regions: tuple[RegionChoice, ...] = ()
    default_height: RegionHeight = 1.2
    default_filament: Identifier = "cream"
    default_edge: EdgeOptions = Field(default_factory=EdgeOptions.model_construct)
    filaments: Annotated[tuple[Filament, ...], Field(min_length=1, max_length=MAX_FILAMENTS)] = FILAMENTS
    units: Literal["mm", "inch"] = "mm"

    def filament(self, identifier: str) -> Filament:
        """The filament of that name, else the first one."""
        return next((f for f in self.filaments if f.id == identifier), self.filaments[0])
