"""What a rehearsal is told: printer, filaments, and how it is printed. Lengths in mm, times in s, speeds in mm/s."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Length = Annotated[float, Field(gt=0, le=2000, allow_inf_nan=False)]
Speed = Annotated[float, Field(ge=1, le=1000, allow_inf_nan=False)]
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Title = Annotated[str, Field(min_length=1, max_length=120)]
Key = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]

# A line is wider than the nozzle that lays it by this factor.
SPREAD = 1.1
MOST_SLOTS = 16
MAX_COPIES = 200


class Frozen(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", json_schema_serialization_defaults_required=True)


class Speeds(Frozen):
    """By kind of path, and of moves that lay nothing."""

    outer_wall: Speed = 60.0
    inner_wall: Speed = 90.0
    skin: Speed = 90.0
    infill: Speed = 120.0
    first_layer: Speed = 30.0
    travel: Speed = 180.0


class ByHand(Frozen):
    """Filament is changed by the maker. minutes: what a change takes."""

    how: Literal["by hand"] = "by hand"
    minutes: Annotated[float, Field(ge=0, le=240)] = 3.0


class Changer(Frozen):
    """Filament is changed by the printer. seconds and purged mm³ are of one change."""

    how: Literal["changer"] = "changer"
    slots: Annotated[int, Field(ge=1, le=MOST_SLOTS)] = 4
    seconds: Annotated[float, Field(ge=0, le=3600)] = 60.0
    purged: Annotated[float, Field(ge=0, le=5000)] = 140.0


class Printer(Frozen):
    """One printer.

    bed: its shape; width is the diameter of a round one. line: width of a laid line, else SPREAD × the nozzle.
    flow: the most that can be molten, mm³/s. corner_speed: how fast it goes round a right angle. retraction: how far
    the filament is drawn back (mm) before a move that lays nothing, and how long that takes there and back (s).
    """

    id: Key = "plain"
    name: Title = "Bench printer"
    bed: Literal["rectangle", "round"] = "rectangle"
    width: Length = 220.0
    depth: Length = 220.0
    height: Length = 250.0
    nozzle: Annotated[float, Field(ge=0.1, le=2)] = 0.4
    line: Annotated[float, Field(ge=0.1, le=4)] | None = None
    thinnest_layer: Annotated[float, Field(ge=0.02, le=2)] = 0.08
    thickest_layer: Annotated[float, Field(ge=0.02, le=2)] = 0.3
    speeds: Speeds = Speeds()
    acceleration: Annotated[float, Field(ge=10, le=100_000)] = 2000.0
    corner_speed: Annotated[float, Field(ge=0.1, le=500)] = 8.0
    flow: Annotated[float, Field(ge=0.1, le=200)] = 12.0
    retraction: Annotated[float, Field(ge=0, le=20)] = 0.8
    retraction_time: Annotated[float, Field(ge=0, le=5)] = 0.05
    least_layer_time: Annotated[float, Field(ge=0, le=120)] = 6.0
    warm_up: Annotated[float, Field(ge=0, le=3600)] = 180.0
    change: Annotated[ByHand | Changer, Field(discriminator="how")] = ByHand()

    @property
    def line_width(self) -> float:
        """Width of a laid line, mm."""
        return self.line if self.line is not None else round(SPREAD * self.nozzle, 4)


class Spool(Frozen):
    """A filament as a print uses it. density: g/cm³; price: a kg; left: g on the spool, None where it is not known."""

    name: Title = "Filament"
    colour: Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")] = "#8a8f98"
    material: Annotated[str, Field(max_length=40)] = "PLA"
    density: Annotated[float, Field(ge=0.2, le=25)] = 1.24
    diameter: Annotated[float, Field(ge=0.5, le=5)] = 1.75
    price: Annotated[float, Field(ge=0, le=10_000)] = 22.0
    left: Annotated[float, Field(ge=0, le=100_000)] | None = None


class Manner(Frozen):
    """How it is printed.

    walls: loops round every area. bottom, top: whole layers below and above what is open. infill: how much of the
    inside is filled. brim: loops round the first layer. thinnest: a wall narrower than this share of a line is not
    printed.
    """

    layer: Annotated[float, Field(ge=0.02, le=2)] = 0.2
    first_layer: Annotated[float, Field(ge=0.02, le=2)] = 0.2
    walls: Annotated[int, Field(ge=1, le=20)] = 2
    bottom: Annotated[int, Field(ge=0, le=100)] = 4
    top: Annotated[int, Field(ge=0, le=100)] = 4
    infill: Share = 0.2
    pattern: Literal["lines", "grid", "concentric"] = "lines"
    brim: Annotated[int, Field(ge=0, le=50)] = 0
    thinnest: Annotated[float, Field(ge=0.2, le=1)] = 0.6


# Presets in plain words; each number stays open.
PRESETS: dict[str, Manner] = {
    "light": Manner(walls=2, bottom=3, top=3, infill=0.1),
    "sturdy": Manner(walls=3, bottom=4, top=4, infill=0.25, pattern="grid"),
    "solid": Manner(walls=2, bottom=4, top=4, infill=1.0),
}
