"""Beds of several pieces, in a worker: where copies lie, what is wrong with a place, and the file of a bed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.rehearsal.nesting import Place
from drelo.core.rehearsal.plan import BedPlan, Trouble, amiss, packed
from drelo.core.rehearsal.settings import Printer
from drelo.core.rehearsal.whole import Checkpoint
from drelo.formats.beds import Laid, lay_out, write_bed
from drelo.formats.threemf import read_3mf


def lay(
    checkpoint: Checkpoint,
    plan: BedPlan,
    outlines: Mapping[int, bytes],
    printer: Printer,
    keep: Literal["locked", "all"],
) -> BedPlan:
    """The plan with a place for every copy. outlines: WKB. Raises Refusal."""
    return packed(plan, _read(outlines), printer, keep)


def look(
    checkpoint: Checkpoint, plan: BedPlan, outlines: Mapping[int, bytes], printer: Printer
) -> list[Trouble | None]:
    """What is wrong with each place."""
    return amiss(plan, _read(outlines), printer)


def _read(outlines: Mapping[int, bytes]) -> dict[int, BaseGeometry]:
    return {number: shapely.from_wkb(data) for number, data in outlines.items()}


def lay_names(
    checkpoint: Checkpoint, names: Sequence[str], outlines: Sequence[bytes], bed: tuple[float, float], spacing: float
) -> list[list[tuple[int, Place]]]:
    """Places of pieces, each once, on as many beds as it takes. Raises Refusal."""
    return lay_out(names, [shapely.from_wkb(data) for data in outlines], bed, spacing)


@dataclass(frozen=True)
class Copy:
    """A copy on a bed: what it is called, the 3MF that it is of (by its name), and where it lies."""

    name: str
    file: str
    place: Place


def bed_file(
    checkpoint: Checkpoint,
    title: str,
    copies: Sequence[Copy],
    files: Mapping[str, bytes],
    metadata: Mapping[str, str],
    materials: Mapping[str, str],
) -> bytes:
    """The 3MF of a bed as placed. Raises Refusal."""
    read = {name: tuple(read_3mf(data)) for name, data in files.items()}

    def laid() -> Iterator[Laid]:
        for copy in copies:
            checkpoint()
            yield Laid(copy.name, read[copy.file], copy.place)

    return write_bed(title, laid(), metadata, materials)
