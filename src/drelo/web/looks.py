"""Blueprint: what is seen of a piece: its pictures, attempts, rough spots, and the solid."""

from __future__ import annotations

import hashlib

from flask import Response, make_response
from flask_openapi3 import APIBlueprint, Tag

from drelo.core.errors import Refusal
from drelo.core.piece.applying import apply
from drelo.core.piece.edits import ChooseAttempt
from drelo.formats.names import file_name
from drelo.web.bench import bench
from drelo.web.changing import drafted
from drelo.web.problems import problem
from drelo.web.replies import attached, flat_reply, reply, unchanging
from drelo.web.schemas.base import AssetPath, AttemptPath, LookPath, PiecePath, Problem, SolidPath, WayPath
from drelo.web.schemas.bench import (
    ClingRequest,
    ClungOut,
    DraftRequest,
    FlatView,
    LookedOver,
    OutcomeOut,
    OutcomePngQuery,
    OutcomeQuery,
)
from drelo.work import tasks

blueprint = APIBlueprint(
    "looks", __name__, url_prefix="/api", abp_tags=[Tag(name="bench")], abp_responses={404: Problem, 422: Problem}
)
GLB = "model/gltf-binary"


@blueprint.get("/pieces/<piece_id>/look-over/<int:revision>", operation_id="lookOver", responses={200: LookedOver})
def look_over(path: SolidPath) -> Response:
    """Narrow places and rough spots of a revision."""
    document = bench().pieces.at(path.piece_id, path.revision)
    return reply(LookedOver(bench().work(path.piece_id, tasks.look_over, document, lane="look", aside=True)))


@blueprint.get(
    "/pieces/<piece_id>/attempts/<int:revision>/<picture>/<attempt>", operation_id="attempt", responses={200: FlatView}
)
def attempt(path: AttemptPath) -> Response:
    """The flat view as an attempt that was kept would make it."""
    before = bench().pieces.at(path.piece_id, path.revision)
    document = apply(before, ChooseAttempt(picture=path.picture, id=path.attempt))
    return flat_reply(bench().flat(path.piece_id, document))


@blueprint.get("/pieces/<piece_id>/ways/<int:revision>/<picture>/<mode>", operation_id="way", responses={200: FlatView})
def way(path: WayPath) -> Response:
    """What one picture comes to when it is traced as ink, colours or strokes, small."""
    document = bench().pieces.at(path.piece_id, path.revision)
    lane = f"way {path.picture} {path.mode}"
    return flat_reply(bench().work(path.piece_id, tasks.way, document, path.picture, path.mode, lane=lane, aside=True))


@blueprint.post("/pieces/<piece_id>/cling", operation_id="cling", responses={200: ClungOut, 409: Problem})
def cling(path: PiecePath, body: ClingRequest) -> Response:
    """The way along a picture's strongest edge; while the hand moves, a newer request supersedes this one."""
    document = bench().pieces.at(path.piece_id, body.revision)
    lane = "pen" if body.moving else None
    found = bench().work(path.piece_id, tasks.clung, document, body.picture, body.start, body.end, body.snap, lane=lane)
    return reply(ClungOut(to=found.to, points=list(found.points)))


@blueprint.post("/pieces/<piece_id>/solid", operation_id="previewSolid", responses={200: None, 409: Problem})
def preview_solid(path: PiecePath, body: DraftRequest) -> Response:
    """The solid as an edit would make it (binary glTF); nothing is stored. A newer preview supersedes this one."""
    _, after = drafted(path.piece_id, body)
    return glb_reply(bench().work(path.piece_id, tasks.solid, after, lane="solid", rank=1))


@blueprint.get("/pieces/<piece_id>/solid/<int:revision>", operation_id="solid", responses={200: None})
def solid(path: SolidPath) -> Response:
    """The solid of a revision (binary glTF)."""
    document = bench().pieces.at(path.piece_id, path.revision)
    response = glb_reply(bench().work(path.piece_id, tasks.solid, document, rank=1))
    response.headers["Cache-Control"] = "private, max-age=86400"
    return response


@blueprint.get("/pieces/<piece_id>/outcome/<int:revision>", operation_id="outcome", responses={200: OutcomeOut})
def outcome(path: SolidPath, query: OutcomeQuery) -> Response:
    """What the stamp prints, or what the cutter's biscuit looks like."""
    document = bench().pieces.at(path.piece_id, path.revision)
    return reply(
        OutcomeOut(
            outcome=bench().work(path.piece_id, tasks.outcome, document, query.spread, query.rise, lane="outcome")
        )
    )


@blueprint.get("/pieces/<piece_id>/outcome/<int:revision>/png", operation_id="outcomePng", responses={200: None})
def outcome_png(path: SolidPath, query: OutcomePngQuery) -> Response:
    """The same as a PNG to take."""
    document = bench().pieces.at(path.piece_id, path.revision)
    data = bench().work(path.piece_id, tasks.outcome_png, document, query.spread, query.rise, query.dpi, aside=True)
    what = "biscuit" if document.form == "cutter" else "print"
    name = f"{file_name(bench().pieces.title(path.piece_id))}-{what}.png"
    return attached(Response(data, content_type="image/png"), name)


@blueprint.get("/assets/<sha256>", operation_id="underlay", responses={200: None})
def underlay(path: AssetPath) -> Response:
    """A picture, upright, as the underlay shows it."""
    key = hashlib.sha256(f"underlay 1 {path.sha256}".encode()).hexdigest()
    found = bench().derived.get(key)
    if found is None:
        data = bench().assets.get(path.sha256)
        if data is None:
            return problem(404, Refusal("picture.unknown"))
        found = bench().pool.run(path.sha256, tasks.underlay, data)
        bench().derived.put(key, *found)
    return unchanging(*found)


@blueprint.get("/pieces/<piece_id>/underlay/<look>", operation_id="look", responses={200: None})
def piece_underlay(path: LookPath) -> Response:
    """A picture of the piece as its care leaves it, as the underlay shows it."""
    key = hashlib.sha256(f"look 1 {path.look}".encode()).hexdigest()
    found = bench().derived.get(key)
    if found is None:
        document = bench().pieces.get(path.piece_id).document
        picture = next((p for p in document.pictures if p.look == path.look), None)
        if picture is None:
            return problem(404, Refusal("picture.changed"))
        found = bench().work(path.piece_id, tasks.look, document, picture.id)
        bench().derived.put(key, *found)
    return unchanging(*found)


def glb_reply(data: bytes) -> Response:
    response = make_response(data)
    response.content_type = GLB
    return response
