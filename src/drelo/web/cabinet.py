"""Blueprint: the cabinet of shipped motifs."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.core.errors import Refusal
from drelo.core.piece.edits import SetSource, apply
from drelo.store import cabinet
from drelo.store.pieces import Conflict
from drelo.web import intake
from drelo.web.bench import bench
from drelo.web.edits import conflict_answer
from drelo.web.problems import answer
from drelo.web.replies import bench_reply, reply, unchanging
from drelo.web.schemas import (
    BenchOut,
    CabinetOut,
    ConflictProblem,
    MotifOut,
    MotifPath,
    MotifQuery,
    PiecePath,
    Problem,
    TakeMotif,
)

blueprint = APIBlueprint(
    "cabinet", __name__, url_prefix="/api", abp_tags=[Tag(name="cabinet")], abp_responses={404: Problem, 422: Problem}
)


@blueprint.get("/cabinet", operation_id="cabinet", responses={200: CabinetOut})
def listing() -> Response:
    """Every motif, by name."""
    return reply(CabinetOut(motifs=[MotifOut(**{**vars(m), "words": list(m.words)}) for m in cabinet.motifs()]))


@blueprint.get("/cabinet/<motif>", operation_id="motifPicture", responses={200: None})
def motif_picture(path: MotifPath, query: MotifQuery) -> Response:
    """A motif as PNG; small, to choose by."""
    found = cabinet.motif(path.motif)
    if found is None:
        return answer(Problem(title="Not Found", status=404, detail="The cabinet has no motif of that name."))
    return unchanging((cabinet.small_picture if query.small else cabinet.picture)(found), "image/png")


@blueprint.post("/pieces/<piece_id>/cabinet", operation_id="takeMotif", responses={200: BenchOut, 409: ConflictProblem})
def take_motif(path: PiecePath, body: TakeMotif) -> Response:
    """Take a motif as the piece's picture; where it came from is noted."""
    found = cabinet.motif(body.motif)
    if found is None:
        raise Refusal("The cabinet has no motif of that name.", "motif")
    try:
        state = bench().pieces.get(path.piece_id)
        if state.revision != body.revision:
            raise Conflict(state)
        taken = intake.take_bytes(bench(), path.piece_id, state.document, cabinet.picture(found), f"{found.name}.png")
        noted = SetSource(origin=cabinet.ORIGIN, permission="free")
        document = apply(taken.document, noted)
        source = document.source
        if source is None:
            raise AssertionError("a picture was just taken")
        edit = taken.edit.model_copy(update={"source": source})
        state = bench().pieces.edit(path.piece_id, body.revision, edit, lambda _: document)
    except Conflict as conflict:
        return conflict_answer(conflict)
    return bench_reply(state, taken.flat)
