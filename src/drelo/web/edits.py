"""Blueprint: changes to a piece, and previews of them."""

from __future__ import annotations

from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application import intake
from drelo.store.blobs import Bytes
from drelo.store.pieces import State
from drelo.web.bench import bench
from drelo.web.changing import Change, changed, drafted, moved_along
from drelo.web.replies import flat_reply, reply
from drelo.web.schemas.base import OnRevision, PiecePath, Problem
from drelo.web.schemas.bench import BenchAnswer, EditRequest, FlatAnswer, FlatPart, PreviewRequest
from drelo.web.schemas.pieces import BenchOut, ConflictProblem, PictureForPiece
from drelo.web.uploads import uploaded
from drelo.work.tasks import Wanted

blueprint = APIBlueprint(
    "edits", __name__, url_prefix="/api", abp_tags=[Tag(name="bench")], abp_responses={404: Problem, 422: Problem}
)
_CHANGES: dict[Any, Any] = {200: BenchAnswer, 409: ConflictProblem}


@blueprint.post("/pieces/<piece_id>/edits", operation_id="editPiece", responses=_CHANGES)
def edit_piece(path: PiecePath, body: EditRequest) -> Response:
    """Make an edit. It is worked out first, so that one that leaves nothing is refused and not stored."""

    def work(state: State) -> Change:
        step = bench().step(path.piece_id, state.document, body.edit)
        return Change(step.edit, step.document)

    return changed(path.piece_id, body.revision, work, body.changes_only)


@blueprint.post(
    "/pieces/<piece_id>/picture",
    operation_id="putPicture",
    responses={200: BenchOut, 409: ConflictProblem, 413: Problem},
)
def put_picture(path: PiecePath, form: PictureForPiece) -> Response:
    """Lay one picture more on the sheet, or another one in the place of one that lies there."""
    at = None if form.x is None or form.y is None else (form.x, form.y)
    wanted = Wanted(replaces=form.replaces or None, at=at)

    def work(state: State) -> Change:
        data, name = uploaded(form.picture)
        taken = intake.take_picture(bench(), path.piece_id, state.document, data, name, wanted)
        return Change(taken.edit, taken.document, taken.flat, (Bytes(data, taken.media_type),))

    return changed(path.piece_id, form.revision, work)


@blueprint.post("/pieces/<piece_id>/undo", operation_id="undo", responses=_CHANGES)
def undo(path: PiecePath, body: OnRevision) -> Response:
    """One step back."""
    return moved_along(path.piece_id, body.revision, back=True, changes_only=body.changes_only)


@blueprint.post("/pieces/<piece_id>/redo", operation_id="redo", responses=_CHANGES)
def redo(path: PiecePath, body: OnRevision) -> Response:
    """One step forward again."""
    return moved_along(path.piece_id, body.revision, back=False, changes_only=body.changes_only)


@blueprint.post("/pieces/<piece_id>/preview", operation_id="previewFlat", responses={200: FlatAnswer, 409: Problem})
def preview_flat(path: PiecePath, body: PreviewRequest) -> Response:
    """The flat view as an edit would make it; nothing is stored. A newer preview supersedes this one."""
    before, after = drafted(path.piece_id, body, lane="shape")
    if body.changes_only:
        return reply(FlatPart.of(bench().flat_change(path.piece_id, before, after, "flat", body.coarse)))
    return flat_reply(bench().flat(path.piece_id, after, lane="flat", coarse=body.coarse))
