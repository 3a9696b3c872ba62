"""Pictures on the sheet: their files, their care, where they lie, and how each is traced."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Matrix
from drelo.core.outline.path_data import MAX_LENGTH
from drelo.core.picture.care import Crop, EvenLight, Flatten, Level, Rub, Step
from drelo.core.picture.palette import MAX_COLOURS, MIN_COLOURS
from drelo.core.piece.drawn import MAX_DRAWN, Colour, Coordinate, Frozen, Identifier, Name, Point
from drelo.core.trace.area import MAX_CORNERS, Fence
from drelo.core.trace.modes import Mode, Settings
from drelo.core.trace.pen.pen import Kind
from drelo.core.trace.settings import ColourSettings, InkSettings, StrokeSettings

MAX_CARE = 40
MAX_AREAS = 24
MAX_ATTEMPTS = 24
MAX_PEN = 400
MAX_STRETCHES = 1000
MAX_PICTURES = 24
# A picture's pixel is so large on the sheet, mm.
LEAST_PIXEL, LARGEST_PIXEL = 1e-5, 1000.0
# Places in px are told to this step, so that moving a picture about does not trace it again.
PX_DIGITS = 6

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
    """Only here: a part of the picture with its own settings. corners: of a polygon, mm on the sheet."""

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
    """What the pen drew over the picture: where it was set, mm on the sheet."""

    name: Name
    start: Point
    stretches: Annotated[tuple[PenStretch, ...], Field(min_length=1, max_length=MAX_STRETCHES)]
    closed: bool = False


class Mark(Frozen):
    """How a region is recognised again: a point inside it and its box, mm on the sheet.

    picture: the one that it was traced from.
    """

    anchor: Point
    box: Box
    picture: Identifier | None = None


def marked(anchor: Point, box: Sequence[float], picture: str | None = None) -> Mark:
    """The mark of a region. Raises Refusal where it lies beyond what the sheet can hold."""
    try:
        return Mark(anchor=anchor, box=(box[0], box[1], box[2], box[3]), picture=picture)
    except ValidationError:
        raise Refusal("piece.too-far") from None


class Mend(Frozen):
    """A manual change to a traced outline: as it was traced, and as it is now, path data in mm on the sheet.

    mark: how the outline is recognised again. Traced otherwise, what was changed is done again where it still fits.
    """

    id: Identifier
    mark: Mark
    was: Annotated[str, Field(max_length=MAX_LENGTH)]
    now: Annotated[str, Field(max_length=MAX_LENGTH)]


class Placement(Frozen):
    """Where a picture lies on the sheet: mm a pixel, where its first corner lies, mm, and its turn, degrees.

    The first corner is that of the picture after its care.
    """

    mm_per_px: Annotated[float, Field(ge=LEAST_PIXEL, le=LARGEST_PIXEL, allow_inf_nan=False)] = 1.0
    at: Point = (0.0, 0.0)
    turn: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)] = 0.0

    @property
    def matrix(self) -> Matrix:
        """From px of the picture to mm on the sheet."""
        angle = math.radians(self.turn)
        c, s = (math.cos(angle), math.sin(angle)) if self.turn else (1.0, 0.0)
        return (self.mm_per_px * c, self.mm_per_px * s, -self.mm_per_px * s, self.mm_per_px * c, *self.at)

    def on_sheet(self, point: Point) -> Point:
        """A place in px of the picture, on the sheet."""
        a, b, c, d, e, f = self.matrix
        x, y = point
        return a * x + c * y + e, b * x + d * y + f

    def in_picture(self, point: Point) -> Point:
        """A place on the sheet, in px of the picture."""
        a, b, c, d, e, f = self.matrix
        x, y = point[0] - e, point[1] - f
        below = a * d - b * c
        return round((d * x - c * y) / below, PX_DIGITS), round((a * y - b * x) / below, PX_DIGITS)


class PlacedPicture(Source):
    """A picture on the sheet.

    trace: how the whole picture is traced; where there are areas, only they are, each in its own way.
    tracing: off, only what the pen draws counts. mends: manual changes to its traced outlines.
    locked: the hand does not move it. hidden: neither it nor its outlines are shown or raised.
    """

    place: Placement = Placement()
    trace: TraceSettings = TraceSettings()
    tracing: bool = True
    areas: Annotated[tuple[PictureArea, ...], Field(max_length=MAX_AREAS)] = ()
    attempts: Annotated[tuple[Attempt, ...], Field(max_length=MAX_ATTEMPTS)] = ()
    pen: Annotated[tuple[PenLine, ...], Field(max_length=MAX_PEN)] = ()
    mends: Annotated[tuple[Mend, ...], Field(max_length=MAX_DRAWN)] = ()
    locked: bool = False
    hidden: bool = False
