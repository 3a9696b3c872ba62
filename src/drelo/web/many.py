"""Blueprint: the same piece for many names."""

from __future__ import annotations

import hashlib

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application.products import named_product
from drelo.core.errors import Refusal
from drelo.formats.name_list import read_names
from drelo.formats.names import file_name
from drelo.formats.product import FileKind
from drelo.web.bench import bench
from drelo.web.replies import reply
from drelo.web.schemas.base import PiecePath, Problem
from drelo.web.schemas.files import MadeOne, MakeOne, ManyNames, NameList, PackedOut, PackMany
from drelo.work import many

blueprint = APIBlueprint(
    "many", __name__, url_prefix="/api", abp_tags=[Tag(name="many")], abp_responses={404: Problem, 422: Problem}
)


@blueprint.post("/names", operation_id="readNames", responses={200: ManyNames})
def names(body: NameList) -> Response:
    """The names of a list: one a line, or the first column of a CSV."""
    return reply(ManyNames(names=read_names(body.text.encode())))


@blueprint.post("/pieces/<piece_id>/many/one", operation_id="makeOne", responses={200: MadeOne})
def make_one(path: PiecePath, body: MakeOne) -> Response:
    """Build and check the piece with one name; its bytes are kept until they are packed."""
    document = bench().pieces.at(path.piece_id, body.revision)
    kind: FileKind = "stl" if body.packing == "stl" else "3mf"
    key = named_product(bench(), path.piece_id, document, body.name, body.words, kind, body.within)
    return reply(MadeOne(key=key))


@blueprint.post("/pieces/<piece_id>/many/pack", operation_id="packMany", responses={200: PackedOut})
def pack(path: PiecePath, body: PackMany) -> Response:
    """Everything that was made in one file: a 3MF a bed, or a ZIP of STLs."""
    files = []
    for made in body.made:
        found = bench().derived.get(made.key)
        if found is None:
            raise Refusal(f"{made.name} is no longer kept. Make the names once more.", "made")
        files.append(found[0])
    data, media, suffix, count = bench().pool.run(
        path.piece_id, many.pack, [m.name for m in body.made], files, body.packing, body.bed, body.spacing
    )
    key = hashlib.sha256(b"many 1" + data).hexdigest()
    bench().derived.put(key, data, media)
    name = f"{file_name(bench().pieces.title(path.piece_id))}-names.{suffix}"
    return reply(PackedOut(url=f"/api/files/{key}?name={name}", name=name, bytes=len(data), count=count))
