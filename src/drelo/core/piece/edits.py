"""Edits: every change to a piece is one of these."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from drelo.core.form.base import MAX_MARGIN, MAX_THICKNESS, BaseShape
from drelo.core.outline.contour import Matrix
from drelo.core.picture.palette import MAX_COLOURS, MIN_COLOURS
from drelo.core.piece.document import Density, Diameter, Form, Margin, Price, RegionChoice, RegionHeight, Side, Size
from drelo.core.piece.drawn import MAX_DRAWN, Colour, Drawn, Frozen, Identifier, Name, Point, Symmetry
from drelo.core.piece.form_numbers import (
    CutterOptions,
    EdgeOptions,
    NameplateOptions,
    ReliefOptions,
    StampOptions,
)
from drelo.core.piece.pictures import (
    MAX_CARE,
    CareStep,
    Mark,
    Mend,
    Palette,
    PenLine,
    Permission,
    PlacedPicture,
    Placement,
)
from drelo.core.rehearsal.settings import MAX_COPIES, Key, Manner
from drelo.core.trace.area import MAX_CORNERS
from drelo.core.trace.modes import Mode

MAX_PICKED = 20_000
MAX_PICTURE_IDS = 24


class OfPicture(Frozen):
    """An edit of one picture; without a name, of the first one."""

    picture: Identifier | None = None


class PutPicture(Frozen):
    """A picture on the sheet: a new one on top, or another one in the place of that of the same id.

    What was decided for regions waits for shapes in the same places.
    """

    do: Literal["put-picture"] = "put-picture"
    source: PlacedPicture


class PlacePicture(OfPicture):
    """Lay a picture elsewhere on the sheet, or make it larger; what lies on it goes along."""

    do: Literal["place-picture"] = "place-picture"
    place: Placement


class MarkPicture(OfPicture):
    """Lock or hide a picture, or call it something else; only what is given changes."""

    do: Literal["mark-picture"] = "mark-picture"
    name: Name | None = None
    locked: bool | None = None
    hidden: bool | None = None


class OrderPicture(OfPicture):
    """Bring a picture to the top or the bottom of the pictures, or one step up or down."""

    do: Literal["order-picture"] = "order-picture"
    to: Literal["top", "bottom", "up", "down"]


class DropPicture(OfPicture):
    """Take a picture off the sheet, with all that was traced of it."""

    do: Literal["drop-picture"] = "drop-picture"


class SetScale(OfPicture):
    """A known length: two points of a picture, mm on the sheet, lie so many mm apart; only this picture changes."""

    do: Literal["set-scale"] = "set-scale"
    points: tuple[Point, Point]
    mm: Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)]


class MoveSheet(Frozen):
    """All art under a map that moves, turns and scales evenly. size: what was typed for the art."""

    do: Literal["move-sheet"] = "move-sheet"
    matrix: Matrix
    size: Size | None = None


class SetSource(OfPicture):
    """Note where the picture came from, and by what right it is used; only what is given changes."""

    do: Literal["set-source"] = "set-source"
    origin: Annotated[str, Field(max_length=400)] | None = None
    permission: Permission | None = None
    whole: bool | None = None


class SetCare(OfPicture):
    """What is done to the picture before it is traced, in order. The original is kept."""

    do: Literal["set-care"] = "set-care"
    care: Annotated[tuple[CareStep, ...], Field(max_length=MAX_CARE)]


class SwitchCare(OfPicture):
    """Take one step of the picture's care back, do it again, or forget it; the others stay."""

    do: Literal["switch-care"] = "switch-care"
    at: Annotated[int, Field(ge=0, lt=MAX_CARE)]
    state: Literal["on", "off", "gone"]


class SetTrace(OfPicture):
    """Trace again with other settings; only those that are given change, null lets Drelo find it.

    area: the settings of this area; without it, those of the whole picture.
    """

    do: Literal["set-trace"] = "set-trace"
    area: Identifier | None = None
    level: Annotated[float, Field(ge=0, le=1)] | None = None
    mode: Mode | None = None
    invert: bool | None = None
    speck: Annotated[float, Field(ge=0, le=1e9)] | None = None
    smooth: Annotated[float, Field(ge=0, le=1)] | None = None
    keen: Annotated[float, Field(ge=0, le=1)] | None = None
    silhouette: bool | None = None
    colours: Annotated[int, Field(ge=MIN_COLOURS, le=MAX_COLOURS)] | None = None
    palette: Palette | None = None
    background: Colour | Literal["none"] | None = None
    width: Annotated[float, Field(gt=0, le=1e4)] | None = None
    pinhole: Annotated[float, Field(ge=0, le=1e9)] | None = None
    local: bool | None = None


class SetTracing(OfPicture):
    """Off: only what the pen drew counts."""

    do: Literal["set-tracing"] = "set-tracing"
    on: bool


class AddArea(OfPicture):
    """Trace only here, too: a part of the picture, which begins with the settings of the whole."""

    do: Literal["add-area"] = "add-area"
    id: Identifier
    corners: Annotated[tuple[Point, ...], Field(min_length=3, max_length=MAX_CORNERS)]
    name: Name | None = None


class SetArea(OfPicture):
    """Other corners or another name; only what is given changes."""

    do: Literal["set-area"] = "set-area"
    id: Identifier
    corners: Annotated[tuple[Point, ...], Field(min_length=3, max_length=MAX_CORNERS)] | None = None
    name: Name | None = None


class DropArea(OfPicture):
    do: Literal["drop-area"] = "drop-area"
    id: Identifier


class KeepAttempt(OfPicture):
    """Keep all settings of the trace as they stand now."""

    do: Literal["keep-attempt"] = "keep-attempt"
    id: Identifier
    name: Name | None = None


class ChooseAttempt(OfPicture):
    """Trace as an attempt did."""

    do: Literal["choose-attempt"] = "choose-attempt"
    id: Identifier


class DropAttempt(OfPicture):
    do: Literal["drop-attempt"] = "drop-attempt"
    id: Identifier


class SetPen(OfPicture):
    """A line of the pen, new or gone on with."""

    do: Literal["set-pen"] = "set-pen"
    line: PenLine


class DropPen(OfPicture):
    do: Literal["drop-pen"] = "drop-pen"
    id: Identifier


class Picked(Frozen):
    """A region as the flat view names it."""

    id: Identifier
    mark: Mark


class PutDrawn(Frozen):
    """Drawn things, new ones on top or in the place of those of the same id. height: of new shapes, mm."""

    do: Literal["put-drawn"] = "put-drawn"
    things: Annotated[tuple[Drawn, ...], Field(min_length=1, max_length=MAX_DRAWN)]
    height: RegionHeight | None = None


class MarkDrawn(Frozen):
    """Name, lock, hide, group or pierce by drawn things; what is given changes, an empty group takes them apart.

    hole: they go through everything on their place. fill: their colour; "none" for none of their own.
    """

    do: Literal["mark-drawn"] = "mark-drawn"
    ids: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=MAX_DRAWN)]
    name: Name | None = None
    locked: bool | None = None
    hidden: bool | None = None
    hole: bool | None = None
    fill: Colour | Literal["none"] | None = None
    group: Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{0,40}$")] | None = None


class OrderDrawn(Frozen):
    """Bring drawn things to the top or the bottom, or one step up or down."""

    do: Literal["order-drawn"] = "order-drawn"
    ids: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=MAX_DRAWN)]
    to: Literal["top", "bottom", "up", "down"]


class SetSymmetry(Frozen):
    """How what is drawn from now on is repeated; null ends it."""

    do: Literal["set-symmetry"] = "set-symmetry"
    symmetry: Symmetry | None = None


class Reshape(Frozen):
    """What became of a change of shape: things put and dropped, traced regions left out or mended.

    name: what was done. choices: heights, filaments and names of regions that took the place of others.
    drop_pictures: pictures whose outlines are drawn things from now on. place: pictures that go along.
    base_at: where the base is held from now on.
    """

    do: Literal["reshape"] = "reshape"
    name: Annotated[str, Field(max_length=60)]
    put: Annotated[tuple[Drawn, ...], Field(max_length=MAX_DRAWN)] = ()
    drop: Annotated[tuple[Identifier, ...], Field(max_length=MAX_DRAWN)] = ()
    leave_out: Annotated[tuple[Picked, ...], Field(max_length=MAX_DRAWN)] = ()
    mends: Annotated[tuple[Mend, ...], Field(max_length=MAX_DRAWN)] = ()
    choices: Annotated[tuple[RegionChoice, ...], Field(max_length=MAX_DRAWN)] = ()
    drop_pictures: Annotated[tuple[Identifier, ...], Field(max_length=MAX_PICTURE_IDS)] = ()
    place: Annotated[tuple[tuple[Identifier, Placement], ...], Field(max_length=MAX_PICTURE_IDS)] = ()
    base_at: Point | None = None


class SetBase(Frozen):
    """Only the values that are given change. Lengths in mm; null takes back a size or a place of its own."""

    do: Literal["set-base"] = "set-base"
    shape: BaseShape | None = None
    margin: Margin | None = None
    thickness: Annotated[float, Field(gt=0, le=MAX_THICKNESS)] | None = None
    corner_radius: Annotated[float, Field(ge=0, le=MAX_MARGIN)] | None = None
    filament: Identifier | None = None
    block: tuple[Side, Side] | None = None
    sides: tuple[Side, Side] | None = None
    diameter: Side | None = None
    at: Point | None = None
    keep_holes: bool | None = None


class SetRegions(Frozen):
    """Height, filament, name, or whether they are left out, of regions; only the values that are given change."""

    do: Literal["set-regions"] = "set-regions"
    picked: Annotated[tuple[Picked, ...], Field(min_length=1, max_length=MAX_PICKED)]
    height: RegionHeight | None = None
    filament: Identifier | None = None
    name: Name | None = None
    left_out: bool | None = None
    edge: EdgeOptions | None = None


class SetDefaults(Frozen):
    """Height, filament and edge of regions for which nothing was decided."""

    do: Literal["set-defaults"] = "set-defaults"
    height: RegionHeight | None = None
    filament: Identifier | None = None
    edge: EdgeOptions | None = None


class SetForm(Frozen):
    """Another form, or other numbers of one; heights and all other numbers stay."""

    do: Literal["set-form"] = "set-form"
    form: Form | None = None
    relief: ReliefOptions | None = None
    stamp: StampOptions | None = None
    cutter: CutterOptions | None = None
    nameplate: NameplateOptions | None = None
    layer: Annotated[float, Field(ge=0.02, le=2)] | None = None
    nozzle: Annotated[float, Field(ge=0.1, le=2)] | None = None


class SetFilament(Frozen):
    """Change a filament, or add one with a new id."""

    do: Literal["set-filament"] = "set-filament"
    id: Identifier
    name: Name
    colour: Colour
    material: Annotated[str, Field(max_length=40)] = "PLA"
    density: Density = 1.24
    diameter: Diameter = 1.75
    price: Price = 22.0


class SetPrinting(Frozen):
    """Which printer the piece is printed on, how, how many of it and which way up; what is not given stays."""

    do: Literal["set-printing"] = "set-printing"
    printer: Key | None = None
    manner: Manner | None = None
    copies: Annotated[int, Field(ge=1, le=MAX_COPIES)] | None = None
    face_down: bool | None = None


class DropFilament(Frozen):
    """Take a filament out of the piece; what was of it is of another one from then on."""

    do: Literal["drop-filament"] = "drop-filament"
    id: Identifier
    instead: Identifier


class SetUnits(Frozen):
    do: Literal["set-units"] = "set-units"
    units: Literal["mm", "inch"]


Edit = Annotated[
    PutPicture
    | PlacePicture
    | MarkPicture
    | OrderPicture
    | DropPicture
    | SetScale
    | MoveSheet
    | SetSource
    | SetCare
    | SwitchCare
    | SetTrace
    | SetTracing
    | AddArea
    | SetArea
    | DropArea
    | KeepAttempt
    | ChooseAttempt
    | DropAttempt
    | SetPen
    | DropPen
    | PutDrawn
    | MarkDrawn
    | OrderDrawn
    | SetSymmetry
    | Reshape
    | SetBase
    | SetRegions
    | SetDefaults
    | SetForm
    | SetFilament
    | SetPrinting
    | DropFilament
    | SetUnits,
    Field(discriminator="do"),
]
EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)
