"""Blueprint: the same piece for many names."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application.products import figures_of, named_product, outline_of
from drelo.core.errors import Refusal
from drelo.core.rehearsal.nesting import Place
from drelo.formats.archive import zip_stream
from drelo.formats.name_list import read_names
from drelo.formats.names import distinct_names, file_name
from drelo.formats.product import THREE_MF, ZIP, FileKind
from drelo.web.bench import bench
from drelo.web.derived import may_have, told
from drelo.web.problems import problem
from drelo.web.replies import attached, reply
from drelo.web.schemas.base import FilePath, FileQuery, PiecePath, Problem
from drelo.web.schemas.files import (
    BedsOut,
    LaidName,
    LayNames,
    MadeOne,
    MakeBed,
    MakeOne,
    ManyNames,
    NameList,
    PackedOut,
    PackMany,
)
from drelo.work import laying

blueprint = APIBlueprint(
    "many", __name__, url_prefix="/api", abp_tags=[Tag(name="many")], abp_responses={404: Problem, 422: Problem}
)
# All names of a list together come to at most so many bytes.
MOST_PACKED = 4 * 2**30
# A list of files that are packed as they are sent.
LIST = "application/x-drelo-pack+json"


@blueprint.post("/names", operation_id="readNames", responses={200: ManyNames})
def names(body: NameList) -> Response:
    """The names of a list: one a line, or the first column of a CSV."""
    return reply(ManyNames(names=read_names(body.text.encode())))


@blueprint.post("/pieces/<piece_id>/many/one", operation_id="makeOne", responses={200: MadeOne})
def make_one(path: PiecePath, body: MakeOne) -> Response:
    """Build and check the piece with one name; its bytes are kept until they are packed."""
    document = bench().pieces.at(path.piece_id, body.revision)
    kind: FileKind = "stl" if body.packing == "stl" else "3mf"
    key, figures = named_product(bench(), path.piece_id, document, body.name, body.words, kind, body.within)
    most = MOST_PACKED / body.among
    if figures.bytes > most:
        raise Refusal(
            "names.too-large-together", "among", count=body.among, each=figures.bytes / 2**20, most=MOST_PACKED // 2**30
        )
    return reply(MadeOne(key=told(key, path.piece_id)))


@blueprint.post("/pieces/<piece_id>/many/beds", operation_id="layNames", responses={200: BedsOut})
def lay_names(path: PiecePath, body: LayNames) -> Response:
    """Where everything that was made lies, on as many beds as it takes."""
    outlines = []
    for made in body.made:
        figures = figures_of(bench(), made.key) if may_have(made.key) else None
        if figures is None:
            raise _no_longer(made.name)
        outlines.append(outline_of(figures))
    names = [made.name for made in body.made]
    beds = bench().pool.run(path.piece_id, laying.lay_names, names, outlines, body.bed, body.spacing, aside=True)
    return reply(
        BedsOut(
            beds=[
                [
                    LaidName(key=body.made[i].key, name=body.made[i].name, at=(place.x, place.y), turn=place.turn)
                    for i, place in bed
                ]
                for bed in beds
            ]
        )
    )


@blueprint.post("/pieces/<piece_id>/many/bed", operation_id="makeBed", responses={200: MadeOne})
def make_bed(path: PiecePath, body: MakeBed) -> Response:
    """The 3MF of one bed; its bytes are kept until they are packed."""
    key = hashlib.sha256(f"bed 2 {body.model_dump_json()}".encode()).hexdigest()
    if not bench().derived.has(key):
        files = {laid.key: _bytes(laid) for laid in body.laid}
        copies = [laying.Copy(laid.name, laid.key, Place(0, *laid.at, laid.turn)) for laid in body.laid]
        title = f"Bed {body.number}"
        data = bench().pool.run(path.piece_id, laying.bed_file, title, copies, files, {}, {}, aside=True)
        bench().derived.put(key, data, THREE_MF)
    return reply(MadeOne(key=told(key, path.piece_id)))


@blueprint.post("/pieces/<piece_id>/many/pack", operation_id="packMany", responses={200: PackedOut})
def pack(path: PiecePath, body: PackMany) -> Response:
    """Files that were made as one to take: the one bed, or a ZIP."""
    title = f"{file_name(bench().pieces.title(path.piece_id))}-names"
    count = len(body.made)
    for made in body.made:
        if not (bench().derived.has(made.key) and may_have(made.key)):
            raise _no_longer(made.name)
    if body.suffix == "3mf" and count == 1:
        name = f"{title}.3mf"
        return reply(PackedOut(url=f"/api/files/{body.made[0].key}?name={name}", name=name, count=1))
    stems = distinct_names([made.name for made in body.made])
    listed = [(f"{stem}.{body.suffix}", made.key) for stem, made in zip(stems, body.made, strict=True)]
    data = json.dumps(listed).encode()
    key = hashlib.sha256(b"pack 2" + data).hexdigest()
    bench().derived.put(key, data, LIST)
    return reply(
        PackedOut(url=f"/api/packs/{told(key, path.piece_id)}?name={title}.zip", name=f"{title}.zip", count=count)
    )


@blueprint.get("/packs/<key>", operation_id="packedFiles", responses={200: None})
def packed(path: FilePath, query: FileQuery) -> Response:
    """A ZIP of files that were made, written as it is sent."""
    found = bench().derived.get(path.key)
    if found is None or found[1] != LIST or not may_have(path.key):
        return problem(404, Refusal("names.cleared"))
    derived = bench().derived

    def files() -> Iterator[tuple[str, bytes]]:
        for name, key in json.loads(found[0]):
            one = derived.get(key)
            if one is None:
                # The ZIP ends in the middle, so that nobody takes it for a whole one.
                raise LookupError(f"{name} went while it was being sent")
            yield name, one[0]

    response = Response(zip_stream(files()), content_type=ZIP)
    return attached(response, query.name)


def _bytes(made: LaidName) -> bytes:
    found = bench().derived.get(made.key)
    if found is None or not may_have(made.key):
        raise _no_longer(made.name)
    return found[0]


def _no_longer(name: str) -> Refusal:
    return Refusal("names.no-longer-kept", "made", name=name)
