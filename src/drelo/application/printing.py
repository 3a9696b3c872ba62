"""Prints on a printer: a job made of a rehearsal, sent, followed, and kept in the history when it ends."""

from __future__ import annotations

import secrets
from collections.abc import Mapping, Sequence
from datetime import timedelta

from drelo.application.beds import bed_rehearsal, known_of
from drelo.application.bench import Bench
from drelo.application.device import Act, DeviceAway
from drelo.application.rehearsals import keys_of, manner_of, printer_of, rehearsal
from drelo.core.errors import Refusal
from drelo.core.piece.document import Document
from drelo.core.rehearsal.plan import BedPlan
from drelo.core.rehearsal.settings import Changer, Printer
from drelo.device.job import ENDED, Change, Job, Lay, Spool, Status, Step, WarmUp
from drelo.formats.rehearsal_out import RehearsalReport
from drelo.store.blobs import WANTED
from drelo.store.models import now
from drelo.store.prints import Outcome, Printed


def job_of(
    identifier: str, title: str, report: RehearsalReport, bed: int, printer: Printer, spools: Sequence[Spool]
) -> Job:
    """The job that prints a bed (from 0) of a rehearsal. spools: of its bodies, in their order."""
    load = len(report.beds[bed].places)
    change = printer.change
    steps: list[Step] = [WarmUp(seconds=printer.warm_up)]
    waiting = list(report.changes)
    now_in: int | None = None
    for number, layer in enumerate(report.layers, 1):
        laid: list[Step] = []
        longer = max(0.0, printer.least_layer_time - load * layer.seconds)
        for at, part in enumerate(layer.parts):
            if now_in is not None and part.body != now_in and waiting:
                told = waiting.pop(0)
                purged = change.purged if isinstance(change, Changer) else 0.0
                laid.append(
                    Change(
                        layer=number,
                        out=spools[now_in].id,
                        into=spools[part.body].id,
                        by_hand=change.how == "by hand",
                        seconds=change.seconds if isinstance(change, Changer) else change.minutes * 60,
                        grams=purged * _per_volume(report, part.body),
                        words=told.words[:400],
                    )
                )
            now_in = part.body
            last = at == len(layer.parts) - 1
            laid.append(
                Lay(
                    layer=number,
                    z=layer.top,
                    seconds=load * part.seconds + (longer if last else 0.0),
                    filament=spools[part.body].id,
                    grams=load * part.volume * _per_volume(report, part.body),
                )
            )
        steps += laid
    return Job(id=identifier, title=title[:120], steps=tuple(steps), spools=tuple(spools))


def _per_volume(report: RehearsalReport, body: int) -> float:
    """g of a mm³ of a body's filament."""
    told = report.bodies[body]
    volume = told.volume + told.purged
    return told.grams / volume if volume else 0.0


def print_piece(bench: Bench, piece: str, revision: int, bed: int) -> Printed:
    """Begin to print a bed (from 0) of a piece's copies. Raises Refusal."""
    document = bench.pieces.at(piece, revision)
    title = bench.pieces.title(piece)
    printing = document.printing
    printer, manner = printer_of(bench, printing.printer), manner_of(document)
    key, report = rehearsal(bench, piece, document, title, printer, manner, printing.copies)
    return _begin(bench, title, key, report, bed, printer, [document], piece=piece)


def print_bed(bench: Bench, name: str, plan: BedPlan, bed: int) -> Printed:
    """Begin to print a bed (from 0) of a plan as it is placed. Raises Refusal."""
    _, key, report = bed_rehearsal(bench, name, plan, bed)
    documents = [known.document for known in known_of(bench, plan) if known.document is not None]
    printer = printer_of(bench, plan.printer)
    title = plan.name if len({p.bed for p in plan.places}) == 1 else f"{plan.name}, bed {bed + 1}"
    return _begin(bench, title, key, report, 0, printer, documents, plan=name)


def _begin(
    bench: Bench,
    title: str,
    key: str,
    report: RehearsalReport,
    bed: int,
    printer: Printer,
    documents: Sequence[Document],
    piece: str | None = None,
    plan: str | None = None,
) -> Printed:
    if not 0 <= bed < len(report.beds):
        raise Refusal("bed.unknown", "bed")
    stopping = [t.kind for t in report.troubles if t.kind in ("too large", "too tall")]
    if stopping:
        raise Refusal("printer.too-large-a-print", how=stopping[0], name=printer.name)
    settle(bench)
    if bench.prints.open():
        raise Refusal("printer.busy")
    identifier = secrets.token_urlsafe(9)
    job = job_of(identifier, title, report, bed, printer, _spools(bench, report, documents))
    told = Printed(
        id=identifier,
        piece=piece,
        plan=plan,
        title=title,
        rehearsal=key,
        state="printing",
        words="",
        layer=0,
        layers=len(report.layers),
        seconds=report.beds[bed].seconds,
        grams={},
        begun=now(),
        ended=None,
    )
    # The page shows its layers while they are laid.
    bench.derived.want(*keys_of(key, report), wanted=timedelta(seconds=told.seconds) + WANTED)
    # Written down first: should the answer be lost, what the printer is at is known all the same.
    bench.prints.add(told)
    try:
        bench.device.begin(job)
    except DeviceAway:
        # It may have taken the job on; what it says next decides.
        raise
    except Refusal:
        bench.prints.drop(identifier)
        raise
    return told


def _spools(bench: Bench, report: RehearsalReport, documents: Sequence[Document]) -> list[Spool]:
    """The shelf's spool for each body: of its name and colour, else of its colour; else one of nobody's."""
    left = {filament.id: weighed for filament, weighed in bench.filaments.spools()}
    known = {(f.title, f.colour.lower()): f.id for d in reversed(documents) for f in d.filaments}
    by_colour = {f.colour.lower(): f.id for d in reversed(documents) for f in d.filaments}
    found: list[Spool] = []
    for number, body in enumerate(report.bodies):
        colour = body.colour.lower()
        identifier = known.get((body.name, colour)) or by_colour.get(colour) or f"body-{number}"
        if any(spool.id == identifier for spool in found):
            identifier = f"body-{number}"
        found.append(Spool(id=identifier, name=body.name[:120], colour=body.colour, left=left.get(identifier)))
    return found


def settle(bench: Bench) -> Status | None:
    """What the printer is at; a print that has ended there ends here. None where it does not answer."""
    waiting = bench.prints.open()
    try:
        status = bench.device.status()
    except DeviceAway:
        return None
    for told in waiting:
        if status.job != told.id:
            # It never got the job, or has forgotten it.
            bench.prints.end(told.id, "failed", "The printer lost the job.", told.layer, {})
        elif status.phase in ENDED:
            bench.prints.end(told.id, _outcome(status), status.words, status.layer, status.used)
    return status


def _outcome(status: Status) -> Outcome:
    return "done" if status.phase == "done" else "stopped" if status.phase == "stopped" else "failed"


def act(bench: Bench, job: str, what: Act, body: Mapping[str, object]) -> Status:
    """Do something with the print that is on the printer. Raises Refusal."""
    before = bench.device.status()
    bench.device.act(job, what, dict(body))
    if what == "refill" and before.filament is not None:
        grams = body.get("grams")
        # All that the print uses leaves the shelf when it ends; what it had used by now came off the spool before.
        used = before.used.get(before.filament, 0.0)
        bench.filaments.weigh(before.filament, grams + used if isinstance(grams, (int, float)) else None)
    return settle(bench) or bench.device.status()
