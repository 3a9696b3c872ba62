"""What a print job is made of, as it is sent to a printer. Times in s, weights in g, heights in mm."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

MOST_STEPS = 100_000
Seconds = Annotated[float, Field(ge=0, le=10_000_000, allow_inf_nan=False)]
Grams = Annotated[float, Field(ge=0, le=1_000_000, allow_inf_nan=False)]
Name = Annotated[str, Field(min_length=1, max_length=120)]
Key = Annotated[str, Field(min_length=1, max_length=64)]
Speed = Literal[1, 60, 600]
Phase = Literal[
    "idle",
    "warming up",
    "printing",
    "changing filament",
    "waiting for a change",
    "paused",
    "out of filament",
    "failed",
    "stopped",
    "done",
]
# What a printer is at while a job is on its bed, and how a job ends.
BUSY = ("warming up", "printing", "changing filament")
HELD = ("waiting for a change", "paused", "out of filament")
ENDED = ("failed", "stopped", "done")


class Frozen(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", json_schema_serialization_defaults_required=True)


class WarmUp(Frozen):
    do: Literal["warm up"] = "warm up"
    seconds: Seconds


class Lay(Frozen):
    """Print what one filament has in a layer (from 1), whose upper side is at z."""

    do: Literal["lay"] = "lay"
    layer: Annotated[int, Field(ge=1, le=100_000)]
    z: Annotated[float, Field(ge=0, le=100_000)]
    seconds: Seconds
    filament: Key
    grams: Grams


class Change(Frozen):
    """Change filament. by_hand: the printer waits until somebody says that it is done. grams: that are purged."""

    do: Literal["change"] = "change"
    layer: Annotated[int, Field(ge=1, le=100_000)]
    out: Key
    into: Key
    by_hand: bool
    seconds: Seconds
    grams: Grams = 0.0
    words: Annotated[str, Field(max_length=400)] = ""


Step = Annotated[WarmUp | Lay | Change, Field(discriminator="do")]


class Spool(Frozen):
    """left: g, where it is known."""

    id: Key
    name: Name
    colour: Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]
    left: Grams | None = None


class Job(Frozen):
    """A job: its steps in order, and the spools that it needs."""

    id: Key
    title: Name
    steps: Annotated[tuple[Step, ...], Field(min_length=1, max_length=MOST_STEPS)]
    spools: Annotated[tuple[Spool, ...], Field(min_length=1, max_length=64)]


class Status(Frozen):
    """What a printer is at.

    layer: that is printed, from 1, 0 before the first; of: how many there are. done, total: seconds of printing,
    without what a hand took. used: g of each filament so far, left: what its spool holds, where that is known.
    """

    name: Name
    phase: Phase
    speed: Speed
    job: Key | None
    title: str
    words: str
    layer: int
    of: int
    z: float
    done: float
    total: float
    filament: Key | None
    used: dict[str, float]
    left: dict[str, float | None]
