"""Blueprint: pieces as archives, out and in."""

from __future__ import annotations

import hashlib

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application import archives
from drelo.formats.names import file_name
from drelo.formats.piece_archive import SUFFIX
from drelo.store.pieces import new_id
from drelo.web.bench import bench
from drelo.web.derived import told
from drelo.web.replies import bench_reply, reply
from drelo.web.schemas.base import PiecePath, Problem
from drelo.web.schemas.pieces import ArchiveForm, BenchOut
from drelo.web.schemas.shape import OutlinesOut
from drelo.web.uploads import uploaded

blueprint = APIBlueprint(
    "archives", __name__, url_prefix="/api", abp_tags=[Tag(name="archives")], abp_responses={404: Problem, 422: Problem}
)
ZIP = "application/zip"


@blueprint.post("/pieces/<piece_id>/archive", operation_id="exportArchive", responses={200: OutlinesOut})
def export_archive(path: PiecePath) -> Response:
    """The piece, its pictures and fonts and its named versions as one ZIP; its address stays good for a while."""
    data = archives.archive_of(bench(), path.piece_id)
    key = hashlib.sha256(b"archive 1" + data).hexdigest()
    bench().derived.put(key, data, ZIP)
    name = f"{file_name(bench().pieces.title(path.piece_id))}{SUFFIX}"
    return reply(OutlinesOut(url=f"/api/files/{told(key, path.piece_id)}?name={name}", name=name, bytes=len(data)))


@blueprint.post("/pieces/from-archive", operation_id="beginWithArchive", responses={200: BenchOut, 413: Problem})
def begin_with_archive(form: ArchiveForm) -> Response:
    """A new piece from an archive; a ZIP that holds none is refused with the field "kind"."""
    key = new_id()
    data, _ = uploaded(form.file)
    taken = archives.take(bench(), key, data)
    return bench_reply(archives.keep(bench(), key, taken), taken.flat)
