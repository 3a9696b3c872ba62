"""What was drawn, set or brought in: things on the sheet, mm, y down."""

from __future__ import annotations

from collections.abc import Hashable
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from drelo.core.lettering.layout import LEADING, MAX_LETTERS
from drelo.core.outline.path_data import MAX_LENGTH
from drelo.core.outline.primitives import MAX_SIDES, MIN_SIDES

MAX_DRAWN = 20_000
MAX_COPIES = 60

Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
Identifier = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
Name = Annotated[str, Field(max_length=120)]
Coordinate = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
Point = tuple[Coordinate, Coordinate]
Extent = Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)]
FontName = Annotated[str, Field(pattern=r"^(font:[a-z]{1,20}|[0-9a-f]{64})$")]


class Frozen(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", json_schema_serialization_defaults_required=True)


class Symmetry(Frozen):
    """Repeats what is drawn: over the line through `at` at `angle` degrees, or `count` times round `at`."""

    kind: Literal["mirror", "turn"] = "mirror"
    at: Point
    angle: Annotated[float, Field(ge=-360, le=360)] = 90.0
    count: Annotated[int, Field(ge=2, le=MAX_COPIES)] = 2


class Thing(Frozen):
    """What every drawn thing has.

    fill: of its group, in art of several colours. group: things of one group are picked together.
    locked: it is not picked by the pointer. hidden: it is neither shown nor raised.
    beneath: it lies under what was traced. follow: it is repeated.
    hole: it goes through everything on its place, in every form; nothing closes it.
    origin: where it came from and by what right, for what others have drawn.
    """

    id: Identifier
    name: Name = ""
    fill: Colour | None = None
    group: Identifier | None = None
    locked: bool = False
    hidden: bool = False
    beneath: bool = False
    hole: bool = False
    origin: Annotated[str, Field(max_length=400)] = ""
    follow: Symmetry | None = None

    @property
    def drawing_key(self) -> tuple[Hashable, ...]:
        """All that its contours follow from."""
        return (*(v for k, v in self.__dict__.items() if k not in _NOT_DRAWING),)


_NOT_DRAWING = frozenset(
    {"id", "name", "fill", "group", "locked", "hidden", "beneath", "hole", "tie", "tied", "origin"}
)


class TieNumbers(Frozen):
    """What a tie was made by: from where to where, and how wide, mm."""

    start: Point
    end: Point
    width: Extent


PathData = Annotated[str, Field(min_length=1, max_length=MAX_LENGTH)]


class Tied(Frozen):
    """What an outline with ties is made of: the parts that they join, as path data, and the ties."""

    parts: PathData
    ties: Annotated[tuple[TieNumbers, ...], Field(min_length=1, max_length=400)]


class DrawnPath(Thing):
    """Closed outlines and open lines, as path data of M, L, C and Z.

    tied: the ties in it and what they join, until it is changed otherwise. tie: the numbers of a tie that stands alone.
    """

    kind: Literal["path"] = "path"
    path: PathData
    tie: TieNumbers | None = None
    tied: Tied | None = None


class LineStretch(Frozen):
    """From where the one before ended: straight, a curve through points or by control points, an arc by two clicks."""

    kind: Literal["straight", "through", "control", "arc"]
    to: Point


class DrawnLine(Thing):
    """A line as it was clicked, so that one can go on with it."""

    kind: Literal["line"] = "line"
    start: Point
    stretches: Annotated[tuple[LineStretch, ...], Field(min_length=1, max_length=2000)]
    closed: bool = False


class DrawnShape(Thing):
    """A shape by its numbers: its middle, its sides or diameters, and how far it is turned, degrees.

    inner: the other diameter of a ring; of a star, that through its notches. aspect: height to width, of circle and
    ring. radius: of a rectangle's corners. sides: of a polygon, points of a star.
    """

    kind: Literal["shape"] = "shape"
    form: Literal["circle", "ring", "ellipse", "rectangle", "polygon", "star"]
    at: Point
    width: Extent
    height: Extent
    inner: Extent = 1.0
    aspect: Annotated[float, Field(gt=0, le=100, allow_inf_nan=False)] = 1.0
    radius: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    sides: Annotated[int, Field(ge=MIN_SIDES, le=MAX_SIDES)] = 6
    turn: Annotated[float, Field(ge=-3600, le=3600)] = 0.0


class Lettering(Thing):
    """Words that stay text. height: of capitals. width: when given, they are fitted to it.

    path: on a straight line, or above or below on a circle of `radius` round `at`.
    """

    kind: Literal["lettering"] = "lettering"
    text: Annotated[str, Field(min_length=1, max_length=MAX_LETTERS)]
    font: FontName = "font:script"
    at: Point
    height: Extent
    width: Extent | None = None
    spacing: Annotated[float, Field(ge=-1, le=5)] = 0.0
    leading: Annotated[float, Field(ge=0.2, le=10)] = LEADING
    align: Literal["left", "middle", "right"] = "middle"
    path: Literal["line", "above", "below"] = "line"
    radius: Extent = 30.0
    turn: Annotated[float, Field(ge=-3600, le=3600)] = 0.0


Drawn = Annotated[DrawnPath | DrawnLine | DrawnShape | Lettering, Field(discriminator="kind")]
