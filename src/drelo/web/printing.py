"""Blueprint: the printer, the prints that run on it, and their history."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application import printing
from drelo.device.job import Status
from drelo.store.prints import Printed
from drelo.web import derived
from drelo.web.bench import bench
from drelo.web.people.who import person
from drelo.web.replies import reply
from drelo.web.schemas.base import PiecePath, Problem
from drelo.web.schemas.beds import BedPath
from drelo.web.schemas.printing import (
    ActOnPrint,
    DeviceOut,
    PrintList,
    PrintOut,
    PrintPath,
    PrintPiece,
    PrintQuery,
    SetPace,
)

blueprint = APIBlueprint(
    "printing",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="printing")],
    abp_responses={404: Problem, 422: Problem},
)


@blueprint.get("/printer", operation_id="device", responses={200: DeviceOut})
def device() -> Response:
    """What the printer is at."""
    return _device(printing.settle(bench()))


@blueprint.get("/prints", operation_id="prints", responses={200: PrintList})
def prints(query: PrintQuery) -> Response:
    """What was printed, the newest first."""
    printing.settle(bench())
    me = person()
    seen = None if me is None else bench().shares.rights(me)
    told = [one for one in bench().prints.all(query.piece) if seen is None or one.piece is None or one.piece in seen]
    return reply(PrintList(prints=[_print(one) for one in told]))


@blueprint.post("/pieces/<piece_id>/print", operation_id="printPiece", responses={200: DeviceOut})
def print_piece(path: PiecePath, body: PrintPiece) -> Response:
    """Print a bed of the piece's copies."""
    begun = printing.print_piece(bench(), path.piece_id, body.revision, body.bed)
    derived.told(begun.rehearsal, path.piece_id)
    return _device(printing.settle(bench()))


@blueprint.post("/beds/<plan>/<int:bed>/print", operation_id="printBed", responses={200: DeviceOut})
def print_bed(path: BedPath) -> Response:
    """Print a bed of a plan as it is placed."""
    begun = printing.print_bed(bench(), path.plan, bench().plans.get(path.plan).plan, path.bed)
    derived.told(begun.rehearsal, path.plan)
    return _device(printing.settle(bench()))


@blueprint.post("/prints/<job>", operation_id="actOnPrint", responses={200: DeviceOut})
def act(path: PrintPath, body: ActOnPrint) -> Response:
    """Pause, resume or stop a print; say that filament was changed or loaded; or let it fail on purpose."""
    more: dict[str, object] = {}
    if body.do == "refill":
        more = {"grams": body.grams}
    elif body.do == "fault":
        more = {"why": body.why}
    return _device(printing.act(bench(), path.job, body.do, more))


@blueprint.put("/printer/pace", operation_id="setPace", responses={200: DeviceOut})
def pace(body: SetPace) -> Response:
    """How many times as fast as a real printer the stand-in plays."""
    bench().device.set_speed(body.times)
    return _device(printing.settle(bench()))


def _device(status: Status | None) -> Response:
    told = bench().prints.get(status.job) if status and status.job else None
    return reply(DeviceOut(status=status, print=_print(told) if told else None))


def _print(told: Printed) -> PrintOut:
    return PrintOut(**{**vars(told), "grams": dict(told.grams)})
