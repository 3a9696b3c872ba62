"""Beds of several pieces: their outlines, where copies lie, the file of each bed and its rehearsal."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from drelo.application.bench import Bench
from drelo.application.products import ProductFigures, outline_of, product
from drelo.application.rehearsals import WITHIN, manner_of, printer_of, rehearsal_of_file, spools_of
from drelo.core.errors import Refusal
from drelo.core.piece.document import Document
from drelo.core.rehearsal.plan import BedPlan, Trouble, beds_of
from drelo.core.rehearsal.settings import Manner, Printer, Spool
from drelo.formats.product import THREE_MF
from drelo.formats.rehearsal_out import RehearsalReport
from drelo.store.revisions import NotFound
from drelo.work import laying
from drelo.work.laying import Copy


@dataclass(frozen=True)
class Known:
    """A piece of a plan as it stands. file: names its 3MF. empty: why there is nothing of it to lay."""

    title: str
    document: Document | None
    file: str
    figures: ProductFigures | None
    empty: Refusal | None


@dataclass(frozen=True)
class Laid:
    """A plan with what is known of its pieces, and what is wrong with each of its places."""

    plan: BedPlan
    printer: Printer
    known: tuple[Known, ...]
    amiss: tuple[Trouble | None, ...]


def looked_at(bench: Bench, name: str, plan: BedPlan) -> Laid:
    """A plan as its pieces stand now."""
    known = known_of(bench, plan)
    printer = printer_of(bench, plan.printer)
    outlines = _outlines(known)
    amiss = bench.pool.run(name, laying.look, plan, outlines, printer, aside=True)
    return Laid(plan, printer, known, tuple(amiss))


def packed(bench: Bench, name: str, plan: BedPlan, keep: Literal["locked", "all"]) -> BedPlan:
    """The plan with a place for every copy. Raises Refusal."""
    known = known_of(bench, plan)
    printer = printer_of(bench, plan.printer)
    return bench.pool.run(name, laying.lay, plan, _outlines(known), printer, keep, aside=True)


def known_of(bench: Bench, plan: BedPlan) -> tuple[Known, ...]:
    """Every piece of a plan."""
    return tuple(_known(bench, thing.piece) for thing in plan.things)


def _known(bench: Bench, piece: str) -> Known:
    try:
        if not bench.may_look(piece):
            return Known("Somebody else’s piece", None, "", None, Refusal("bed.not-shared"))
        state = bench.pieces.get(piece)
    except NotFound:
        return Known("A deleted piece", None, "", None, Refusal("bed.deleted"))
    try:
        file, figures = product(bench, piece, state.document, "3mf", WITHIN, state.name)
    except Refusal as refusal:
        return Known(state.name, state.document, "", None, refusal)
    return Known(state.name, state.document, file, figures, None)


def _outlines(known: tuple[Known, ...]) -> Mapping[int, bytes]:
    return {number: outline_of(one.figures) for number, one in enumerate(known) if one.figures is not None}


def _bytes(bench: Bench, file: str) -> bytes:
    found = bench.derived.get(file)
    if found is None:
        raise Refusal("bed.file-cleared")
    return found[0]


@dataclass(frozen=True)
class BedFile:
    """The 3MF of a bed by its key, what it is rehearsed with, and what does not go together."""

    key: str
    manner: Manner
    spools: tuple[Spool, ...]
    remarks: tuple[str, ...]


def bed_file(bench: Bench, name: str, plan: BedPlan, bed: int) -> BedFile:
    """The 3MF of a bed (from 0) as placed; made where it is not there yet. Raises Refusal."""
    beds = beds_of(plan)
    if not 0 <= bed < len(beds) or not beds[bed]:
        raise Refusal("bed.empty", "bed")
    known = known_of(bench, plan)
    here = [plan.places[i] for i in beds[bed] if known[plan.places[i].thing].figures is not None]
    if not here:
        raise Refusal("bed.empty", "bed")
    documents = [d for d in (known[place.thing].document for place in here) if d is not None]
    manner = manner_of(documents[0])
    layers = sorted({d.layer for d in documents})
    remarks = []
    if len(layers) > 1:
        said = " and ".join(f"{layer:g}" for layer in layers)
        remarks.append(f"These pieces are drawn for layers of {said} mm; the bed is printed at {manner.layer:g} mm.")
    spools: dict[str, Spool] = {}
    for document in documents:
        for spool in spools_of(bench, document):
            spools.setdefault(spool.colour.lower(), spool)
    copies = []
    for place in here:
        one = known[place.thing]
        label = one.title if plan.things[place.thing].copies == 1 else f"{one.title} {place.copy_number + 1}"
        copies.append(Copy(label, one.file, place.place))
    title = plan.name if len(beds) == 1 else f"{plan.name}, bed {bed + 1}"
    materials = {colour: spool.name for colour, spool in spools.items()}
    follows = ("bed 2", title, copies, sorted(materials.items()))
    key = hashlib.sha256(repr(follows).encode()).hexdigest()
    if not bench.derived.has(key):
        files = {copy.file: _bytes(bench, copy.file) for copy in copies}
        data = bench.pool.run(name, laying.bed_file, title, copies, files, {}, materials, aside=True)
        bench.derived.put(key, data, THREE_MF)
    return BedFile(key, manner, tuple(spools.values()), tuple(remarks))


def bed_rehearsal(bench: Bench, name: str, plan: BedPlan, bed: int) -> tuple[BedFile, str, RehearsalReport]:
    """The rehearsal of a bed's own file, as it is placed: its key and report. Raises Refusal."""
    file = bed_file(bench, name, plan, bed)
    printer = printer_of(bench, plan.printer)
    key, report = rehearsal_of_file(bench, name, file.key, list(file.spools), printer, file.manner, 1, as_placed=True)
    return file, key, report
