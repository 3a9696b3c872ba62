"""Blueprint: the cabinet of motifs."""

from __future__ import annotations

import secrets

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application import intake
from drelo.core.errors import Refusal
from drelo.store import cabinet
from drelo.store.blobs import Bytes
from drelo.store.cabinet import Motif
from drelo.store.pieces import State
from drelo.web.bench import bench
from drelo.web.changing import Change, changed, shaped
from drelo.web.problems import problem
from drelo.web.replies import reply, unchanging
from drelo.web.schemas.base import PiecePath, Problem
from drelo.web.schemas.pieces import (
    BenchOut,
    CabinetOut,
    CabinetQuery,
    ConflictProblem,
    MotifOut,
    MotifPath,
    MotifQuery,
    TakeMotif,
)
from drelo.work import shaping
from drelo.work.tasks import Wanted

blueprint = APIBlueprint(
    "cabinet", __name__, url_prefix="/api", abp_tags=[Tag(name="cabinet")], abp_responses={404: Problem, 422: Problem}
)
# So many are shown at a time.
PAGE = 120


@blueprint.get("/cabinet", operation_id="cabinet", responses={200: CabinetOut})
def listing(query: CabinetQuery) -> Response:
    """Motifs for which every word is found, the best first."""
    found = cabinet.search(query.words, query.kind)
    shown = found[query.start : query.start + PAGE]
    return reply(CabinetOut(motifs=[_out(m) for m in shown], total=len(found)))


def _out(found: Motif) -> MotifOut:
    return MotifOut(id=found.id, name=found.name, kind=found.kind, drawn=bool(found.collection), source=found.source)


@blueprint.get("/cabinet/<motif>", operation_id="motifPicture", responses={200: None})
def motif_picture(path: MotifPath, query: MotifQuery) -> Response:
    """A motif as SVG or PNG; small, to choose by."""
    found = cabinet.motif(path.motif)
    if found is None:
        return problem(404, Refusal("motif.unknown"))
    drawn = cabinet.drawing(found)
    if drawn is not None:
        return unchanging(drawn, "image/svg+xml")
    return unchanging((cabinet.small_picture if query.small else cabinet.picture)(found), "image/png")


@blueprint.post("/pieces/<piece_id>/cabinet", operation_id="takeMotif", responses={200: BenchOut, 409: ConflictProblem})
def take_motif(path: PiecePath, body: TakeMotif) -> Response:
    """Take a motif as a picture or as outlines; where it came from is noted."""
    found = cabinet.motif(body.motif)
    if found is None:
        raise Refusal("motif.unknown", "motif")
    drawn = cabinet.drawing(found)
    if body.how == "outlines":
        if drawn is None:
            raise Refusal("motif.is-picture", "how")
        seed = f"c{secrets.token_hex(6)}"
        return changed(
            path.piece_id,
            body.revision,
            shaped(
                path.piece_id,
                lambda state: bench().work(
                    path.piece_id, shaping.place_collected, state.document, drawn, found.name, found.source, seed
                ),
            ),
        )
    wanted = Wanted(origin=found.source, permission="free", replaces=body.replaces)

    def work(state: State) -> Change:
        data = cabinet.picture(found) if drawn is None else bench().pool.run("cabinet", shaping.rendered, drawn)
        taken = intake.take_picture(bench(), path.piece_id, state.document, data, f"{found.name}.png", wanted)
        return Change(taken.edit, taken.document, taken.flat, (Bytes(data, taken.media_type),))

    return changed(path.piece_id, body.revision, work)
