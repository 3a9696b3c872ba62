"""Blueprint: files of a piece that are taken away. What was made is found again by its content."""

from __future__ import annotations

import hashlib

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application.products import ProductFigures, product
from drelo.core.errors import Refusal
from drelo.formats.names import file_name
from drelo.formats.product import SUFFIX, ZIP
from drelo.web.bench import bench
from drelo.web.derived import may_have, told
from drelo.web.problems import problem
from drelo.web.replies import attached, reply, unchanging
from drelo.web.schemas.base import FilePath, FileQuery, OnRevision, PiecePath, Problem
from drelo.web.schemas.files import FileWeight, TakeAwayOut, TakeAwayRequest
from drelo.web.schemas.shape import OutlinesOut
from drelo.work import tasks

blueprint = APIBlueprint(
    "files", __name__, url_prefix="/api", abp_tags=[Tag(name="files")], abp_responses={404: Problem, 422: Problem}
)


@blueprint.post("/pieces/<piece_id>/take-away", operation_id="takeAway", responses={200: TakeAwayOut})
def take_away(path: PiecePath, body: TakeAwayRequest) -> Response:
    """Build, write, read back and check a file; its address stays good until the store is emptied."""
    key, figures, title = _made(path.piece_id, body)
    name = f"{file_name(title)}.{SUFFIX[body.kind]}"
    sealed = all(b.sealed for b in figures.bodies)
    address = f"/api/files/{told(key, path.piece_id)}?name={name}"
    return reply(TakeAwayOut(**dict(figures), url=address, name=name, sealed=sealed))


@blueprint.post("/pieces/<piece_id>/file-weight", operation_id="fileWeight", responses={200: FileWeight, 409: Problem})
def file_weight(path: PiecePath, body: TakeAwayRequest) -> Response:
    """Triangles and bytes of a file before it is taken; a newer question supersedes this one.

    The file is made for it, and is there when it is taken.
    """
    _, figures, _ = _made(path.piece_id, body, lane="weight")
    return reply(FileWeight(triangles=figures.triangles, bytes=figures.bytes))


def _made(piece: str, body: TakeAwayRequest, lane: str | None = None) -> tuple[str, ProductFigures, str]:
    """A file's key, what is known of it, and the piece's title."""
    document = bench().pieces.at(piece, body.revision)
    title = bench().pieces.title(piece)
    return *product(bench(), piece, document, body.kind, body.within, title, lane), title


@blueprint.post("/pieces/<piece_id>/recipe", operation_id="takeRecipe", responses={200: OutlinesOut})
def take_recipe(path: PiecePath, body: OnRevision) -> Response:
    """The recipe that makes the piece from the command line, with its art, in a ZIP."""
    document = bench().pieces.at(path.piece_id, body.revision)
    data = bench().work(path.piece_id, tasks.recipe, document)
    key = hashlib.sha256(b"recipe 1" + data).hexdigest()
    bench().derived.put(key, data, ZIP)
    name = f"{file_name(bench().pieces.title(path.piece_id))}-recipe.zip"
    return reply(OutlinesOut(url=f"/api/files/{told(key, path.piece_id)}?name={name}", name=name, bytes=len(data)))


@blueprint.get("/files/<key>", operation_id="file", responses={200: None})
def file(path: FilePath, query: FileQuery) -> Response:
    """A file that was built."""
    found = bench().derived.get(path.key)
    if found is None or not may_have(path.key):
        return problem(404, Refusal("file.cleared"))
    return attached(unchanging(*found), query.name)
