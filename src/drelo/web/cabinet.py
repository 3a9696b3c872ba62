"""Blueprint: the cabinet of shipped motifs."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application import intake
from drelo.core.errors import Refusal
from drelo.store import cabinet
from drelo.store.pieces import State
from drelo.web.bench import bench
from drelo.web.changing import Change, changed
from drelo.web.problems import answer
from drelo.web.replies import reply, unchanging
from drelo.web.schemas.base import PiecePath, Problem
from drelo.web.schemas.pieces import BenchOut, CabinetOut, ConflictProblem, MotifOut, MotifPath, MotifQuery, TakeMotif
from drelo.work.tasks import Wanted

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
    wanted = Wanted(origin=cabinet.ORIGIN, permission="free", replaces=body.replaces)

    def work(state: State) -> Change:
        data, name = cabinet.picture(found), f"{found.name}.png"
        taken = intake.take_picture(bench(), path.piece_id, state.document, data, name, wanted)
        return Change(taken.edit, taken.document, taken.flat)

    return changed(path.piece_id, body.revision, work)
