"""Blueprint: bed plans: several pieces laid on the beds of a printer."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import shapely
from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application import beds
from drelo.application.products import outline_of
from drelo.core.errors import Refusal
from drelo.core.rehearsal.hatch import rings
from drelo.core.rehearsal.plan import BedPlan, beds_of, kept, without_gaps
from drelo.formats.names import file_name
from drelo.store.plan_shelf import KeptPlan, PlanMoved
from drelo.store.revisions import NotFound
from drelo.web.bench import bench
from drelo.web.derived import told
from drelo.web.people.who import person
from drelo.web.problems import problem
from drelo.web.replies import reply
from drelo.web.schemas.base import Problem
from drelo.web.schemas.beds import (
    BedFileOut,
    BedPath,
    BedRehearsalOut,
    LaidPiece,
    NewPlan,
    PlanCard,
    PlanList,
    PlanOut,
    PlanPath,
    PutPlan,
)
from drelo.words.spoken import sentence

blueprint = APIBlueprint(
    "beds",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="beds")],
    abp_responses={404: Problem, 409: Problem, 422: Problem},
)
LONGEST_NAME = 60


@blueprint.get("/beds", operation_id="bedPlans", responses={200: PlanList})
def plans() -> Response:
    """Every bed plan, the one that was changed last first."""
    return _plans()


@blueprint.post("/beds", operation_id="newBedPlan", responses={200: PlanOut})
def new(body: NewPlan) -> Response:
    """Lay pieces on as few beds as possible."""
    _allowed(thing.piece for thing in body.things)
    plan = BedPlan(
        name=body.name or _named(body), printer=body.printer or bench().printers.all()[0].id, things=body.things
    )
    plan = beds.packed(bench(), "beds", plan, "locked")
    return _out(bench().plans.add(plan))


@blueprint.get("/beds/<plan>", operation_id="bedPlan", responses={200: PlanOut})
def one(path: PlanPath) -> Response:
    """A plan with its pieces as they stand now."""
    return _out(bench().plans.get(path.plan))


@blueprint.put("/beds/<plan>", operation_id="putBedPlan", responses={200: PlanOut})
def put(path: PlanPath, body: PutPlan) -> Response:
    """Change a plan: its pieces, its printer, or where copies lie."""
    now = bench().plans.get(path.plan)
    if now.version != body.version:
        return _moved(now)
    names = [thing.piece for thing in body.plan.things]
    before = {thing.piece for thing in now.plan.things}
    _allowed(name for name in names if name not in before)
    if len(set(names)) < len(names):
        raise Refusal("bed.twice", "plan.things")
    if any(place.thing >= len(names) for place in body.plan.places):
        raise Refusal("bed.stray-place", "plan.places")
    plan = kept(body.plan.things, body.plan)
    if body.lay != "nothing":
        plan = beds.packed(bench(), path.plan, plan, "all" if body.lay == "new" else "locked")
    try:
        return _out(bench().plans.put(path.plan, body.version, without_gaps(plan)))
    except PlanMoved as moved:
        return _moved(moved.kept)


@blueprint.delete("/beds/<plan>", operation_id="dropBedPlan", responses={200: PlanList})
def drop(path: PlanPath) -> Response:
    """Delete a plan; its pieces stay."""
    bench().plans.drop(path.plan)
    return _plans()


@blueprint.post("/beds/<plan>/restore", operation_id="restoreBedPlan", responses={200: PlanList})
def restore(path: PlanPath) -> Response:
    """Bring back a plan that was deleted."""
    bench().plans.restore(path.plan)
    return _plans()


@blueprint.post("/beds/<plan>/<int:bed>/file", operation_id="bedFile", responses={200: BedFileOut})
def file(path: BedPath) -> Response:
    """The 3MF of a bed (from 0) as it is placed."""
    plan = bench().plans.get(path.plan).plan
    made = beds.bed_file(bench(), path.plan, plan, path.bed)
    many = len(beds_of(plan)) > 1
    name = f"{file_name(plan.name)}{f'-bed-{path.bed + 1}' if many else ''}.3mf"
    return reply(BedFileOut(url=f"/api/files/{told(made.key, path.plan)}?name={name}", name=name))


@blueprint.post("/beds/<plan>/<int:bed>/rehearsal", operation_id="rehearseBed", responses={200: BedRehearsalOut})
def rehearse(path: BedPath) -> Response:
    """Print a bed's own file on the simulated printer."""
    plan = bench().plans.get(path.plan).plan
    made, key, report = beds.bed_rehearsal(bench(), path.plan, plan, path.bed)
    printer = bench().printers.get(plan.printer) or bench().printers.all()[0]
    return reply(
        BedRehearsalOut(
            key=told(key, path.plan), printer=printer, manner=made.manner, report=report, remarks=list(made.remarks)
        )
    )


def _moved(now: KeptPlan) -> Response:
    return problem(409, Refusal("plan.changed-elsewhere", version=now.version), kind="/problems/plan-moved")


def _allowed(pieces: Iterable[str]) -> None:
    """Raises Refusal where one may not look at one of them."""
    if not all(bench().may_look(piece) for piece in pieces):
        raise Refusal("bed.piece-gone-or-unshared", "things")


def _named(body: NewPlan) -> str:
    """What a plan is called that was given no name: after its first piece."""
    first = body.things[0].piece
    try:
        title = bench().pieces.title(first)
    except NotFound:
        raise Refusal("bed.piece-gone", "things") from None
    more = len(body.things) - 1
    return f"{title[:LONGEST_NAME]} and {more} more" if more else title[:LONGEST_NAME]


def _plans() -> Response:
    me = person()
    mine = None if me is None else bench().shares.plans(me.id)
    return reply(
        PlanList(
            plans=[
                PlanCard(
                    id=found.id,
                    name=found.plan.name,
                    updated=found.updated,
                    pieces=len(found.plan.things),
                    copies=sum(thing.copies for thing in found.plan.things),
                    beds=len(beds_of(found.plan)),
                )
                for found in bench().plans.all()
                if mine is None or found.id in mine
            ]
        )
    )


def _out(found: KeptPlan) -> Response:
    laid = beds.looked_at(bench(), found.id, found.plan)
    pieces = []
    for one in laid.known:
        figures = one.figures
        outline = [] if figures is None else list(rings(shapely.from_wkb(outline_of(figures))))
        pieces.append(
            LaidPiece(
                title=one.title,
                outline=[np.round(ring, 2).ravel().tolist() for ring in outline],
                size=figures.size_mm if figures else (0.0, 0.0, 0.0),
                colours=tuple(dict.fromkeys(b.colour for b in figures.bodies)) if figures else (),
                missing=sentence(one.empty) if one.empty else "",
            )
        )
    return reply(
        PlanOut(
            id=found.id,
            version=found.version,
            plan=laid.plan,
            printer=laid.printer,
            pieces=pieces,
            amiss=list(laid.amiss),
        )
    )
