"""Blueprint: the workshop's shelf of filaments."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.core.piece.document import Filament
from drelo.web.bench import bench
from drelo.web.replies import reply
from drelo.web.schemas.base import Problem
from drelo.web.schemas.filaments import FilamentList, FilamentPath, PutFilament, ShelfFilament

blueprint = APIBlueprint(
    "filaments", __name__, url_prefix="/api", abp_tags=[Tag(name="filaments")], abp_responses={422: Problem}
)


@blueprint.get("/filaments", operation_id="shelf", responses={200: FilamentList})
def listing() -> Response:
    """Every filament on the shelf, the oldest first."""
    return _all()


@blueprint.put("/filaments/<filament>", operation_id="putFilament", responses={200: FilamentList})
def put(path: FilamentPath, body: PutFilament) -> Response:
    """Put a filament on the shelf, or change one; pieces that carry a copy keep it as it was."""
    told = body.model_dump(exclude={"weighed"})
    bench().filaments.put(Filament(id=path.filament, **told), body.weighed)
    return _all()


@blueprint.delete("/filaments/<filament>", operation_id="dropFilament", responses={200: FilamentList})
def drop(path: FilamentPath) -> Response:
    """Take a filament off the shelf."""
    bench().filaments.drop(path.filament)
    return _all()


def _all() -> Response:
    kept = bench().filaments.spools()
    return reply(FilamentList(filaments=[ShelfFilament(**f.model_dump(), weighed=weighed) for f, weighed in kept]))
