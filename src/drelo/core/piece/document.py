"""The piece document: all that the maker decided, and nothing that can be computed. The sheet is in mm, y down."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from drelo.core.form.base import MAX_BLOCK, MAX_MARGIN, MAX_THICKNESS, BaseShape
from drelo.core.form.relief import MAX_HEIGHT
from drelo.core.piece.drawn import MAX_DRAWN, Colour, Drawn, Frozen, Identifier, Name, Point, Symmetry
from drelo.core.piece.form_numbers import (
    CutterOptions,
    EdgeOptions,
    NameplateOptions,
    ReliefOptions,
    StampOptions,
)
from drelo.core.piece.pictures import MAX_PICTURES, Identified, Mark, PlacedPicture
from drelo.core.rehearsal.settings import MAX_COPIES, Key, Manner

VERSION = 2
MAX_SIZE = 2000.0
# What a maker adds; a recipe may bring more.
MAX_FILAMENTS = 16
MAX_RECIPE_FILAMENTS = 1024
# A size that was typed holds within this, mm.
HOLDS = 1e-6

RegionHeight = Annotated[float, Field(ge=-MAX_HEIGHT, le=MAX_HEIGHT, allow_inf_nan=False)] | Literal["through"]


class Size(Frozen):
    """A size that was typed for the whole art: one side of its box, mm. It holds until something else changes it."""

    side: Literal["width", "height"] = "width"
    mm: Annotated[float, Field(gt=0, le=MAX_SIZE)] = 60.0


class RegionChoice(Frozen):
    """What the maker decided for one region; what is left out follows the piece."""

    id: Identifier
    mark: Mark
    height: RegionHeight | None = None
    filament: Identifier | None = None
    name: Name | None = None
    left_out: bool = False
    edge: EdgeOptions | None = None


Density = Annotated[float, Field(ge=0.2, le=25, allow_inf_nan=False)]
Diameter = Annotated[float, Field(ge=0.5, le=5, allow_inf_nan=False)]
Price = Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)]


class Filament(Identified):
    """density: g/cm³; diameter: mm; price: of a kg, in the maker's money."""

    name: Name
    colour: Colour
    material: Annotated[str, Field(max_length=40)] = "PLA"
    density: Density = 1.24
    diameter: Diameter = 1.75
    price: Price = 22.0

    @property
    def title(self) -> str:
        return f"{self.name} {self.material}".strip()


Side = Annotated[float, Field(gt=0, le=MAX_BLOCK)]
BlockSide = Side
Margin = Annotated[float, Field(ge=-MAX_MARGIN, le=MAX_MARGIN, allow_inf_nan=False)]
Form = Literal["relief", "stamp", "cutter", "nameplate"]


class BasePlate(Frozen):
    """The plate under the art; lengths in mm.

    margin: how far it stands out round the art; negative, it is smaller. diameter: of a circle, instead of a margin.
    block: width and depth of a plain block. sides: of a rectangle, instead of a margin. at: its middle on the sheet;
    without it, it follows the middle of the art. clip: what of the art would stand out over it is cut off.
    """

    shape: BaseShape = "outline"
    margin: Margin = 3.0
    thickness: Annotated[float, Field(gt=0, le=MAX_THICKNESS)] = 2.0
    corner_radius: Annotated[float, Field(ge=0, le=MAX_MARGIN)] = 4.0
    filament: Identifier = "night"
    block: tuple[Side, Side] = (80.0, 60.0)
    sides: tuple[Side, Side] | None = None
    diameter: Side | None = None
    at: Point | None = None
    keep_holes: bool = False

    @property
    def stands_alone(self) -> bool:
        """Whether it has a size of its own, so that it is there without art."""
        return (
            self.shape == "block"
            or (self.shape == "circle" and self.diameter is not None)
            or (self.shape == "rectangle" and self.sides is not None)
        )


FILAMENTS = (
    Filament(id="night", name="Night", colour="#2e3a4d"),
    Filament(id="cream", name="Cream", colour="#efe3c8"),
    Filament(id="moss", name="Moss", colour="#b9c24a"),
    Filament(id="leaf", name="Leaf", colour="#3f6b3a"),
    Filament(id="clay", name="Clay", colour="#c26a4a"),
)


class Printing(Frozen):
    """printer: the name of one on the shelf. manner: how it is printed; its layer is the piece's. copies: how many.

    face_down: the piece is printed, and leaves, with its top on the bed.
    """

    printer: Key = "plain"
    manner: Manner = Manner()
    copies: Annotated[int, Field(ge=1, le=MAX_COPIES)] = 1
    face_down: bool = False


class Document(Frozen):
    """One piece. Places in mm on the sheet, heights in mm above the base's top.

    pictures: on the sheet, the last one on top. drawn: things on the sheet above them, the last one on top.
    size: what was typed for the whole art. form: what is built; each form has numbers of its own.
    layer, nozzle: of the print, mm. symmetry: how what is drawn next is repeated.
    """

    version: Literal[2] = 2
    pictures: Annotated[tuple[PlacedPicture, ...], Field(max_length=MAX_PICTURES)] = ()
    drawn: Annotated[tuple[Drawn, ...], Field(max_length=MAX_DRAWN)] = ()
    symmetry: Symmetry | None = None
    size: Size | None = None
    form: Form = "relief"
    relief: ReliefOptions = Field(default_factory=ReliefOptions.model_construct)
    stamp: StampOptions = Field(default_factory=StampOptions.model_construct)
    cutter: CutterOptions = Field(default_factory=CutterOptions.model_construct)
    nameplate: NameplateOptions = Field(default_factory=NameplateOptions.model_construct)
    layer: Annotated[float, Field(ge=0.02, le=2)] = 0.2
    nozzle: Annotated[float, Field(ge=0.1, le=2)] = 0.4
    printing: Printing = Printing()
    base: BasePlate = BasePlate()
    regions: tuple[RegionChoice, ...] = ()
    default_height: RegionHeight = 1.2
    default_filament: Identifier = "cream"
    default_edge: EdgeOptions = Field(default_factory=EdgeOptions.model_construct)
    filaments: Annotated[tuple[Filament, ...], Field(min_length=1, max_length=MAX_RECIPE_FILAMENTS)] = FILAMENTS
    units: Literal["mm", "inch"] = "mm"

    def filament(self, identifier: str) -> Filament:
        """The filament of that name, else the first one."""
        return next((f for f in self.filaments if f.id == identifier), self.filaments[0])

    def picture(self, identifier: str | None) -> PlacedPicture | None:
        """The picture of that name; without a name the first one."""
        if identifier is None:
            return self.pictures[0] if self.pictures else None
        return next((p for p in self.pictures if p.id == identifier), None)

    @property
    def empty(self) -> bool:
        """Whether there is nothing on the sheet."""
        return not self.pictures and not self.drawn and not self.base.stands_alone
