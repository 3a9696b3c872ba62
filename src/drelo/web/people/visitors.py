"""Blueprint: a piece as whoever has its link sees it, without an account."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.core.piece.document import Document
from drelo.core.piece.flat import Flat
from drelo.store.revisions import NotFound
from drelo.web.bench import bench
from drelo.web.looks import glb_reply
from drelo.web.people.workshop import limiter
from drelo.web.replies import reply
from drelo.web.schemas.base import Problem
from drelo.web.schemas.people import ShownOut, ShownPath, ShownShape, ShownSolidPath
from drelo.work import tasks

blueprint = APIBlueprint(
    "visitors", __name__, url_prefix="/api", abp_tags=[Tag(name="people")], abp_responses={404: Problem, 429: Problem}
)
# From one address; who goes through links by guessing is slowed down by it, too.
LOOKS = "120 per minute"
GREY = "#888888"


@blueprint.get("/shown/<token>", operation_id="shown", responses={200: ShownOut})
@limiter.limit(LOOKS)
def shown(path: ShownPath) -> Response:
    """The outlines of a piece as it stands, in its colours; nothing of its pictures, notes or past."""
    piece = bench().shares.linked(path.token)
    state = bench().pieces.get(piece)
    flat = bench().flat_aside(piece, state.document)
    return reply(_shown(bench().pieces.title(piece), state.revision, state.document, flat))


@blueprint.get("/shown/<token>/solid/<int:revision>", operation_id="shownSolid", responses={200: None})
@limiter.limit(LOOKS)
def solid(path: ShownSolidPath) -> Response:
    """The solid of a piece as it stands (binary glTF)."""
    piece = bench().shares.linked(path.token)
    state = bench().pieces.get(piece)
    if state.revision != path.revision:
        # Only what stands is shown, not the past.
        raise NotFound
    return glb_reply(bench().work(piece, tasks.solid, state.document, rank=1, aside=True))


def _shown(title: str, revision: int, document: Document, flat: Flat) -> ShownOut:
    colours = {f.id: f.colour for f in document.filaments}
    regions = [r for r in flat.regions if not r.left_out]
    base = flat.base_path and ShownShape(path=flat.base_path, colour=colours.get(document.base.filament, GREY))
    boxes = [r.box for r in regions] + ([flat.base_box] if flat.base_box else [])
    return ShownOut(
        title=title,
        revision=revision,
        box=_around(boxes),
        base=base or None,
        regions=[ShownShape(path=r.path, colour=colours.get(r.filament, GREY)) for r in regions],
    )


def _around(boxes: list[tuple[float, float, float, float]]) -> tuple[float, float, float, float] | None:
    if not boxes:
        return None
    x, y = min(b[0] for b in boxes), min(b[1] for b in boxes)
    return x, y, max(b[0] + b[2] for b in boxes) - x, max(b[1] + b[3] for b in boxes) - y
