"""Blueprint: motifs that makers keep."""

from __future__ import annotations

from pathlib import PurePath

from flask import Response, make_response
from flask_openapi3 import APIBlueprint, Tag

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour
from drelo.core.outline.fitting import outlines_of
from drelo.core.outline.path_data import read_path
from drelo.formats.drawing_in import Reading
from drelo.formats.names import file_name
from drelo.formats.svg import Drawing, write_svg
from drelo.store.motif_shelf import KeptMotif
from drelo.web.bench import bench
from drelo.web.changing import changed, shaped
from drelo.web.problems import problem
from drelo.web.replies import reply
from drelo.web.schemas.base import PiecePath, Problem
from drelo.web.schemas.pieces import BenchOut, ConflictProblem
from drelo.web.schemas.shape import KeepMotif, KeptMotifList, KeptMotifOut, KeptMotifPath, MotifForm, PlaceMotif
from drelo.web.uploads import uploaded
from drelo.work import shaping

blueprint = APIBlueprint(
    "motifs", __name__, url_prefix="/api", abp_tags=[Tag(name="motifs")], abp_responses={404: Problem, 422: Problem}
)


@blueprint.get("/motifs", operation_id="keptMotifs", responses={200: KeptMotifList})
def listing() -> Response:
    """Every kept motif, by name."""
    return reply(_all())


@blueprint.post("/motifs", operation_id="keepMotif", responses={200: KeptMotifOut})
def keep(body: KeepMotif) -> Response:
    """Keep what is picked under a name."""
    document = bench().pieces.at(body.piece, body.revision)
    path, width, height = bench().work(body.piece, shaping.motif, document, body.picked)
    return reply(_out(bench().motifs.put(body.name.strip() or "Motif", path, width, height)))


@blueprint.post("/motifs/file", operation_id="bringMotif", responses={200: KeptMotifOut, 413: Problem})
def bring(form: MotifForm) -> Response:
    """Keep a vector file as a motif."""
    data, name = uploaded(form.drawing, "motif.svg")
    _, path = bench().pool.run("motifs", shaping.look_at_drawing, data, name, Reading())
    contours = list(read_path(path))
    path, width, height = shaping.boxed(contours)
    return reply(_out(bench().motifs.put(PurePath(name).stem[:120] or "Motif", path, width, height)))


@blueprint.get("/motifs/<kept>.svg", operation_id="motifFile", responses={200: None})
def as_svg(path: KeptMotifPath) -> Response:
    """A motif as an SVG file in mm."""
    found = bench().motifs.get(path.kept)
    if found is None:
        return problem(404, Refusal("motif.gone"))
    contours = read_path(found.path)
    lines: list[tuple[Contour, str]] = [(c, "#000000") for c in contours if not c.closed]
    data = write_svg([Drawing(outlines_of(contours))], found.width, found.height, hairs=lines)
    response = make_response(data)
    response.content_type = "image/svg+xml"
    response.headers["Content-Disposition"] = f'attachment; filename="{file_name(found.name)}.svg"'
    return response


@blueprint.delete("/motifs/<kept>", operation_id="dropMotif", responses={200: KeptMotifList})
def drop(path: KeptMotifPath) -> Response:
    """Forget a motif; pieces that it was placed in keep it."""
    bench().motifs.drop(path.kept)
    return reply(_all())


@blueprint.post("/pieces/<piece_id>/motif", operation_id="placeMotif", responses={200: BenchOut, 409: ConflictProblem})
def place(path: PiecePath, body: PlaceMotif) -> Response:
    """Put a kept motif on the sheet."""
    found = bench().motifs.get(body.motif)
    if found is None:
        raise Refusal("motif.gone", "motif")
    return changed(
        path.piece_id,
        body.revision,
        shaped(
            path.piece_id,
            lambda state: bench().work(
                path.piece_id, shaping.place_motif, state.document, found.path, found.name, body.seed
            ),
        ),
    )


def _out(found: KeptMotif) -> KeptMotifOut:
    return KeptMotifOut(**vars(found))


def _all() -> KeptMotifList:
    return KeptMotifList(motifs=[_out(m) for m in bench().motifs.all()])
