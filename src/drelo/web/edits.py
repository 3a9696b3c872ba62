"""Blueprint: changes to a piece, previews, and the solid."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from typing import Any

from flask import Response, make_response
from flask_openapi3 import APIBlueprint, Tag

from drelo.core.piece.difference import Difference
from drelo.core.piece.document import Document
from drelo.core.piece.edits import ChooseAttempt, apply
from drelo.core.piece.flat import Flat
from drelo.formats.names import file_name
from drelo.store.pieces import Conflict, State
from drelo.web import intake
from drelo.web.bench import bench
from drelo.web.problems import answer
from drelo.web.replies import bench_reply, change_reply, reply, unchanging
from drelo.web.schemas import (
    AssetPath,
    AttemptPath,
    BenchAnswer,
    BenchOut,
    ClingRequest,
    ClungOut,
    ConflictProblem,
    EditRequest,
    FilePath,
    FileQuery,
    FileWeight,
    FlatAnswer,
    FlatOut,
    LookOverOut,
    LookPath,
    OnRevision,
    OutlinesOut,
    PartOut,
    PictureForPiece,
    PieceOut,
    PiecePath,
    PreviewRequest,
    Problem,
    SolidPath,
    TakeAwayOut,
    TakeAwayRequest,
    WeakPlaceOut,
    WeakPlacesOut,
)
from drelo.work import tasks

blueprint = APIBlueprint(
    "edits",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="bench")],
    abp_responses={404: Problem, 422: Problem},
)
GLB = "model/gltf-binary"
_CHANGES: dict[Any, Any] = {200: BenchAnswer, 409: ConflictProblem}


@blueprint.post("/pieces/<piece_id>/edits", operation_id="editPiece", responses=_CHANGES)
def edit_piece(path: PiecePath, body: EditRequest) -> Response:
    """Make an edit. It is worked out first, so that one that leaves nothing is refused and not stored."""
    try:
        state = bench().pieces.get(path.piece_id)
        if state.revision != body.revision:
            raise Conflict(state)
        before = state.document
        step = bench().step(path.piece_id, before, body.edit)
        shown = _shown(path.piece_id, before, step.document, body.changes_only)
        state = bench().pieces.edit(path.piece_id, body.revision, step.edit, lambda _: step.document)
    except Conflict as conflict:
        return conflict_answer(conflict)
    return _answered(before, state, shown)


@blueprint.post("/pieces/<piece_id>/picture", operation_id="putPicture", responses={**_CHANGES, 413: Problem})
def put_picture(path: PiecePath, form: PictureForPiece) -> Response:
    """Take another picture for the piece."""
    try:
        state = bench().pieces.get(path.piece_id)
        if state.revision != form.revision:
            raise Conflict(state)
        taken = intake.take_in(bench(), path.piece_id, state.document, form.picture)
        state = bench().pieces.edit(path.piece_id, form.revision, taken.edit, lambda _: taken.document)
    except Conflict as conflict:
        return conflict_answer(conflict)
    return bench_reply(state, taken.flat)


@blueprint.post("/pieces/<piece_id>/undo", operation_id="undo", responses=_CHANGES)
def undo(path: PiecePath, body: OnRevision) -> Response:
    """One step back."""
    return _along(path.piece_id, body, bench().pieces.undo)


@blueprint.post("/pieces/<piece_id>/redo", operation_id="redo", responses=_CHANGES)
def redo(path: PiecePath, body: OnRevision) -> Response:
    """One step forward again."""
    return _along(path.piece_id, body, bench().pieces.redo)


def _along(piece: str, body: OnRevision, go: Callable[[str, int], State]) -> Response:
    try:
        before = bench().pieces.get(piece).document
        state = go(piece, body.revision)
    except Conflict as conflict:
        return conflict_answer(conflict)
    return _answered(before, state, _shown(piece, before, state.document, body.changes_only))


def _shown(piece: str, before: Document, after: Document, changes_only: bool) -> Flat | Difference:
    return bench().flat_change(piece, before, after) if changes_only else bench().flat(piece, after)


def _answered(before: Document, state: State, shown: Flat | Difference) -> Response:
    return bench_reply(state, shown) if isinstance(shown, Flat) else change_reply(before, state, shown)


@blueprint.post("/pieces/<piece_id>/preview", operation_id="previewFlat", responses={200: FlatAnswer, 409: Problem})
def preview_flat(path: PiecePath, body: PreviewRequest) -> Response:
    """The flat view as an edit would make it; nothing is stored. A newer preview supersedes this one."""
    before = bench().pieces.at(path.piece_id, body.revision)
    after = bench().step(path.piece_id, before, body.edit, lane="shape").document
    if body.changes_only:
        return reply(PartOut.of_flat(bench().flat_change(path.piece_id, before, after, "flat", body.coarse)))
    return reply(FlatOut.of(bench().flat(path.piece_id, after, lane="flat", coarse=body.coarse)))


@blueprint.get("/pieces/<piece_id>/look-over/<int:revision>", operation_id="lookOver", responses={200: LookOverOut})
def look_over(path: SolidPath) -> Response:
    """Narrow places and rough spots of a revision."""
    document = bench().pieces.at(path.piece_id, path.revision)
    return reply(LookOverOut.of(bench().work(path.piece_id, tasks.look_over, document, lane="look", aside=True)))


@blueprint.get("/pieces/<piece_id>/weak-spots/<int:revision>", operation_id="weakSpots", responses={200: WeakPlacesOut})
def weak_spots(path: SolidPath) -> Response:
    """Thin walls, tight gaps, loose parts and what else a print of a revision would not forgive."""
    document = bench().pieces.at(path.piece_id, path.revision)
    found = bench().work(path.piece_id, tasks.weak_places, document, lane="weak", aside=True)
    return reply(WeakPlacesOut(places=[WeakPlaceOut(**{**vars(p), "regions": list(p.regions)}) for p in found]))


@blueprint.get("/pieces/<piece_id>/attempts/<int:revision>/<attempt>", operation_id="attempt", responses={200: FlatOut})
def attempt(path: AttemptPath) -> Response:
    """The flat view as an attempt that was kept would make it."""
    document = apply(bench().pieces.at(path.piece_id, path.revision), ChooseAttempt(id=path.attempt))
    return reply(FlatOut.of(bench().flat(path.piece_id, document)))


@blueprint.post("/pieces/<piece_id>/cling", operation_id="cling", responses={200: ClungOut, 409: Problem})
def cling(path: PiecePath, body: ClingRequest) -> Response:
    """The way along the picture's strongest edge; while the hand moves, a newer request supersedes this one."""
    document = bench().pieces.at(path.piece_id, body.revision)
    lane = "pen" if body.moving else None
    found = bench().work(path.piece_id, tasks.clung, document, body.start, body.end, body.snap, lane=lane)
    return reply(ClungOut(to=found.to, points=list(found.points)))


@blueprint.post("/pieces/<piece_id>/solid", operation_id="previewSolid", responses={200: None, 409: Problem})
def preview_solid(path: PiecePath, body: EditRequest) -> Response:
    """The solid as an edit would make it (binary glTF); nothing is stored. A newer preview supersedes this one."""
    step = bench().step(path.piece_id, bench().pieces.at(path.piece_id, body.revision), body.edit)
    return _glb(bench().work(path.piece_id, tasks.solid, step.document, lane="solid"))


@blueprint.get("/pieces/<piece_id>/solid/<int:revision>", operation_id="solid", responses={200: None})
def solid(path: SolidPath) -> Response:
    """The solid of a revision (binary glTF)."""
    document = bench().pieces.at(path.piece_id, path.revision)
    response = _glb(bench().work(path.piece_id, tasks.solid, document))
    response.headers["Cache-Control"] = "private, max-age=86400"
    return response


@blueprint.post("/pieces/<piece_id>/take-away", operation_id="takeAway", responses={200: TakeAwayOut})
def take_away(path: PiecePath, body: TakeAwayRequest) -> Response:
    """Build, write, read back and check a file; its address stays good until the store is emptied."""
    document = bench().pieces.at(path.piece_id, body.revision)
    title = bench().pieces.get(path.piece_id).name
    file = bench().work(path.piece_id, tasks.take_away, document, body.kind, body.within, title)
    key = _key(document, body.kind, body.within, title)
    bench().derived.put(key, file.data, file.media_type)
    name = f"{file_name(title)}.{file.suffix}"
    return reply(TakeAwayOut.of(file, f"/api/files/{key}?name={name}", name))


@blueprint.post("/pieces/<piece_id>/file-weight", operation_id="fileWeight", responses={200: FileWeight, 409: Problem})
def file_weight(path: PiecePath, body: TakeAwayRequest) -> Response:
    """Triangles and bytes of a file before it is taken; a newer question supersedes this one."""
    document = bench().pieces.at(path.piece_id, body.revision)
    title = bench().pieces.get(path.piece_id).name
    triangles, size = bench().work(
        path.piece_id, tasks.weigh_file, document, body.kind, body.within, title, lane="weight"
    )
    return reply(FileWeight(triangles=triangles, bytes=size))


@blueprint.post("/pieces/<piece_id>/recipe", operation_id="takeRecipe", responses={200: OutlinesOut})
def take_recipe(path: PiecePath, body: OnRevision) -> Response:
    """The recipe that makes the piece from the command line, with its art, in a ZIP."""
    document = bench().pieces.at(path.piece_id, body.revision)
    data = bench().work(path.piece_id, tasks.recipe, document)
    key = hashlib.sha256(b"recipe 1" + data).hexdigest()
    bench().derived.put(key, data, tasks.ZIP)
    name = f"{file_name(bench().pieces.get(path.piece_id).name)}-recipe.zip"
    return reply(OutlinesOut(url=f"/api/files/{key}?name={name}", name=name, bytes=len(data)))


@blueprint.get("/files/<key>", operation_id="file", responses={200: None})
def file(path: FilePath, query: FileQuery) -> Response:
    """A file that was built."""
    found = bench().derived.get(path.key)
    if found is None:
        return _gone("The file is no longer kept. Take it away once more.")
    response = unchanging(*found)
    stem, _, suffix = query.name.rpartition(".")
    response.headers["Content-Disposition"] = f'attachment; filename="{file_name(stem)}.{file_name(suffix)}"'
    return response


@blueprint.get("/assets/<sha256>", operation_id="underlay", responses={200: None})
def underlay(path: AssetPath) -> Response:
    """A picture, upright, as the underlay shows it."""
    key = hashlib.sha256(f"underlay 1 {path.sha256}".encode()).hexdigest()
    found = bench().derived.get(key)
    if found is None:
        data = bench().assets.get(path.sha256)
        if data is None:
            return _gone("There is no such picture.")
        found = bench().pool.run(path.sha256, tasks.underlay, data)
        bench().derived.put(key, *found)
    return unchanging(*found)


@blueprint.get("/pieces/<piece_id>/underlay/<look>", operation_id="look", responses={200: None})
def piece_underlay(path: LookPath) -> Response:
    """The piece's picture as its care leaves it, as the underlay shows it."""
    key = hashlib.sha256(f"look 1 {path.look}".encode()).hexdigest()
    found = bench().derived.get(key)
    if found is None:
        document = bench().pieces.get(path.piece_id).document
        if document.source is None or document.source.look != path.look:
            return _gone("The picture looks otherwise by now. Load the page again.")
        found = bench().work(path.piece_id, tasks.look, document)
        bench().derived.put(key, *found)
    return unchanging(*found)


def _key(document: Document, kind: str, within: float, title: str) -> str:
    content = json.dumps([document.model_dump(mode="json"), kind, within, title], sort_keys=True)
    return hashlib.sha256(f"file 2 {content}".encode()).hexdigest()


def _glb(data: bytes) -> Response:
    response = make_response(data)
    response.content_type = GLB
    return response


def _gone(detail: str) -> Response:
    return answer(Problem(title="Not Found", status=404, detail=detail))


def conflict_answer(conflict: Conflict) -> Response:
    """409 with the piece as it stands."""
    state: State = conflict.state
    flat = FlatOut.of(bench().flat(state.id, state.document))
    return answer(
        ConflictProblem(
            type="/problems/changed",
            title="Conflict",
            status=409,
            detail="The piece was changed elsewhere in the meantime. What stands now is shown; make the change again.",
            bench=BenchOut(piece=PieceOut.of(state), flat=flat),
        )
    )
