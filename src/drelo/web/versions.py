"""Blueprint: a piece's past, and the ways back to it."""

from __future__ import annotations

from flask import Response, make_response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application.products import product
from drelo.core.piece.history.comparing import regions_between
from drelo.core.piece.history.lines import lines
from drelo.core.piece.history.telling import told
from drelo.store.pieces import Conflict
from drelo.web import requests
from drelo.web.bench import bench
from drelo.web.changing import conflict_answer
from drelo.web.replies import bench_reply, reply
from drelo.web.schemas.base import PiecePath, Problem
from drelo.web.schemas.files import WITHIN
from drelo.web.schemas.pieces import BenchOut, ConflictProblem, PieceOut
from drelo.web.schemas.versions import (
    GoBack,
    RegionsOut,
    SolidFigures,
    StepOut,
    VersionList,
    VersionName,
    VersionOut,
    VersionPath,
)

blueprint = APIBlueprint(
    "versions", __name__, url_prefix="/api", abp_tags=[Tag(name="versions")], abp_responses={404: Problem, 422: Problem}
)


@blueprint.get("/pieces/<piece_id>/versions", operation_id="listVersions", responses={200: VersionList})
def list_versions(path: PiecePath) -> Response:
    """The whole past of a piece, several small steps of one kind as one line."""
    past = bench().history.past(path.piece_id)
    return reply(VersionList.of(past, lines(past.steps)))


@blueprint.get("/pieces/<piece_id>/versions/<int:revision>", operation_id="lookAtVersion", responses={200: VersionOut})
def look_at_version(path: VersionPath) -> Response:
    """A version as it was, and what has changed since; the piece stays as it is."""
    step = bench().history.step(path.piece_id, path.revision)
    then, now = bench().pieces.at(path.piece_id, path.revision), bench().pieces.get(path.piece_id).document
    flat = bench().flat_aside(path.piece_id, then)
    regions = regions_between(flat.regions, bench().flat_aside(path.piece_id, now).regions)
    return reply(
        VersionOut.model_construct(
            revision=step.revision,
            made=StepOut.of(step).made,
            name=step.name,
            document=then,
            flat=flat,
            since=told(then, now),
            regions=RegionsOut.of(regions),
        )
    )


@blueprint.get(
    "/pieces/<piece_id>/versions/<int:revision>/solid-figures",
    operation_id="versionFigures",
    responses={200: SolidFigures},
)
def version_figures(path: VersionPath) -> Response:
    """Size and volume of the solid of a version."""
    document = bench().pieces.at(path.piece_id, path.revision)
    _, figures = product(bench(), path.piece_id, document, "3mf", WITHIN, bench().pieces.title(path.piece_id))
    return reply(SolidFigures(size_mm=figures.size_mm, volume_mm3=figures.volume_mm3))


@blueprint.put("/pieces/<piece_id>/versions/<int:revision>/name", operation_id="nameVersion", responses={204: None})
def name_version(path: VersionPath, body: VersionName) -> Response:
    """A version with a name is kept for good."""
    bench().history.name(path.piece_id, path.revision, body.name)
    return make_response("", 204)


@blueprint.post(
    "/pieces/<piece_id>/versions/<int:revision>/go-back",
    operation_id="goBack",
    responses={200: BenchOut, 409: ConflictProblem},
)
def go_back(path: VersionPath, body: GoBack) -> Response:
    """What a version was becomes the newest one: nothing that came after it is lost."""
    key = requests.key()
    document = bench().pieces.at(path.piece_id, path.revision)
    # One that cannot be shown any more is not gone back to.
    flat = bench().flat(path.piece_id, document)
    try:
        return bench_reply(bench().pieces.go_back(path.piece_id, body.revision, path.revision, key), flat)
    except Conflict as conflict:
        state = bench().pieces.answered(path.piece_id, key)
        return bench_reply(state, flat) if state else conflict_answer(conflict)


@blueprint.post(
    "/pieces/<piece_id>/versions/<int:revision>/piece", operation_id="beginFromVersion", responses={200: PieceOut}
)
def begin_from_version(path: VersionPath) -> Response:
    """A new piece that begins with what a version was."""
    document = bench().pieces.at(path.piece_id, path.revision)
    step = bench().history.step(path.piece_id, path.revision)
    title = bench().pieces.title(path.piece_id)
    name = f"{title[:80]}, {(step.name or 'earlier version')[:38]}"
    return reply(PieceOut.of(bench().pieces.create(name, document)))
