"""Blueprint: what Shape asks beside edits: leaks, growth that joins, drawings in and out, fonts."""

from __future__ import annotations

import hashlib
import json

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.core.errors import Refusal
from drelo.core.piece.edits import Reshape
from drelo.formats.fonts import NAMES
from drelo.formats.names import file_name
from drelo.store.pieces import State
from drelo.web.bench import bench
from drelo.web.changing import changed, shaped
from drelo.web.derived import told
from drelo.web.replies import reply
from drelo.web.schemas.base import PiecePath, Problem, SolidPath
from drelo.web.schemas.pieces import BenchOut, ConflictProblem
from drelo.web.schemas.shape import (
    DrawingForm,
    DrawingOut,
    FontForm,
    FontList,
    FontOut,
    JoiningOut,
    JoiningRequest,
    LeakOut,
    LeakRequest,
    OutlinesOut,
    OutlinesRequest,
    PlaceDrawingForm,
    WordsOut,
    WordsQuery,
)
from drelo.web.uploads import uploaded
from drelo.work import shaping

blueprint = APIBlueprint(
    "shape", __name__, url_prefix="/api", abp_tags=[Tag(name="shape")], abp_responses={404: Problem, 422: Problem}
)
SAMPLE = "Plot Fourteen"


@blueprint.post("/pieces/<piece_id>/leak", operation_id="leak", responses={200: LeakOut})
def leak(path: PiecePath, body: LeakRequest) -> Response:
    """The gap through which a pour would run on."""
    document = bench().pieces.at(path.piece_id, body.revision)
    found = bench().work(path.piece_id, shaping.leak, document, body.at, body.gap)
    if found is None:
        return reply(LeakOut(found=False))
    gap, held = found
    return reply(LeakOut(found=True, start=gap.start, end=gap.end, width=gap.width, held=held))


@blueprint.post("/pieces/<piece_id>/joining", operation_id="joining", responses={200: JoiningOut})
def joining(path: PiecePath, body: JoiningRequest) -> Response:
    """The smallest growth that makes one part of what is picked."""
    document = bench().pieces.at(path.piece_id, body.revision)
    growth, parts = bench().work(path.piece_id, shaping.joining, document, body.picked)
    return reply(JoiningOut(growth=growth, parts=parts))


@blueprint.get("/pieces/<piece_id>/words/<int:revision>", operation_id="readWords", responses={200: WordsOut})
def read_words(path: SolidPath, query: WordsQuery) -> Response:
    """The words in the picture, each offered as lettering in its place."""
    document = bench().pieces.at(path.piece_id, path.revision)
    return reply(WordsOut(words=bench().work(path.piece_id, shaping.words, document, query.picture)))


@blueprint.post("/pieces/<piece_id>/drawing/look", operation_id="lookAtDrawing", responses={200: DrawingOut})
def look_at_drawing(path: PiecePath, form: DrawingForm) -> Response:
    """A vector file's true size and what it holds, before it is placed."""
    data, name = _read(form.drawing)
    drawing, outline = bench().pool.run(path.piece_id, shaping.look_at_drawing, data, name, form.how)
    return reply(
        DrawingOut(
            width=drawing.width,
            height=drawing.height,
            unit=drawing.unit,
            outlines=len(drawing.things),
            open=drawing.open,
            strokes=drawing.strokes,
            path=outline,
            remarks=list(drawing.remarks),
        )
    )


@blueprint.post(
    "/pieces/<piece_id>/drawing", operation_id="placeDrawing", responses={200: BenchOut, 409: ConflictProblem}
)
def place_drawing(path: PiecePath, form: PlaceDrawingForm) -> Response:
    """Put a vector file on the sheet."""
    data, name = _read(form.drawing)

    def place(state: State) -> Reshape:
        return bench().work(
            path.piece_id, shaping.place_drawing, state.document, data, name, form.how, form.width, form.seed
        )

    return changed(path.piece_id, form.revision, shaped(path.piece_id, place))


@blueprint.post("/pieces/<piece_id>/outlines", operation_id="takeOutlines", responses={200: OutlinesOut})
def take_outlines(path: PiecePath, body: OutlinesRequest) -> Response:
    """Write outlines as SVG, DXF or PNG; the address stays good until the store is emptied."""
    document = bench().pieces.at(path.piece_id, body.revision)
    title = bench().pieces.title(path.piece_id)
    wanted = shaping.OutlineFile(
        body.kind, tuple(body.picked), body.spline, body.tolerance, body.dpi, body.kept, body.width, body.middles
    )
    data = bench().work(path.piece_id, shaping.outlines, document, wanted)
    asked = [document.model_dump(mode="json"), body.model_dump(exclude={"revision"})]
    key = hashlib.sha256(f"outlines 1 {json.dumps(asked, sort_keys=True)}".encode()).hexdigest()
    bench().derived.put(key, data, shaping.MEDIA[body.kind])
    name = f"{file_name(title)}.{body.kind}"
    return reply(OutlinesOut(url=f"/api/files/{told(key, path.piece_id)}?name={name}", name=name, bytes=len(data)))


@blueprint.get("/fonts", operation_id="fonts", responses={200: FontList})
def fonts() -> Response:
    """The shipped fonts, each with a sample."""
    found = []
    for name, title in NAMES.items():
        path, width, height = bench().pool.run("fonts", shaping.font_sample, name, SAMPLE)
        found.append(FontOut(id=f"font:{name}", name=title, sample=path, width=width, height=height))
    response = reply(FontList(fonts=found))
    response.headers["Cache-Control"] = "private, max-age=86400"
    return response


@blueprint.post("/pieces/<piece_id>/font", operation_id="bringFont", responses={200: FontOut, 413: Problem})
def bring_font(path: PiecePath, form: FontForm) -> Response:
    """Keep a maker's own font, to set words in."""
    data, _ = _read(form.font)
    name = bench().pool.run(path.piece_id, shaping.read_font, data)
    return reply(FontOut(id=bench().assets.put(data, "font/sfnt"), name=name))


def _read(file: object) -> tuple[bytes, str]:
    data, name = uploaded(file, "drawing.svg")
    if not data:
        raise Refusal("drawing.empty-file", "file")
    return data, name
