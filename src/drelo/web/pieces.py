"""Blueprint: pieces as a whole."""

from __future__ import annotations

import hashlib

from flask import Response, make_response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application import intake
from drelo.formats.thumbnail import thumbnail
from drelo.store.blobs import Bytes
from drelo.store.filament_shelf import fresh_document
from drelo.store.pieces import new_id
from drelo.web.bench import bench
from drelo.web.people.who import person, right
from drelo.web.replies import bench_reply, reply, unchanging
from drelo.web.schemas.base import PiecePath, Problem, SolidPath
from drelo.web.schemas.pieces import (
    BenchOut,
    NewPiece,
    PictureForm,
    PieceCard,
    PieceHeadOut,
    PieceList,
    PieceOut,
    RecipeForm,
    Rename,
)
from drelo.web.uploads import uploaded

blueprint = APIBlueprint(
    "pieces",
    __name__,
    url_prefix="/api/pieces",
    abp_tags=[Tag(name="pieces")],
    abp_responses={404: Problem, 422: Problem},
)


@blueprint.get("", operation_id="listPieces", responses={200: PieceList})
def list_pieces() -> Response:
    """Pieces that one may look at, the last changed first."""
    me = person()
    if me is None:
        return reply(PieceList(pieces=[PieceCard.of(card) for card in bench().pieces.all()]))
    rights, owners = bench().shares.rights(me), bench().shares.owners()
    cards = [PieceCard.of(c, rights[c.id], owners.get(c.id)) for c in bench().pieces.all() if c.id in rights]
    return reply(PieceList(pieces=cards))


@blueprint.post("", operation_id="newPiece", responses={200: PieceOut})
def new_piece(body: NewPiece) -> Response:
    """An empty piece."""
    return reply(PieceOut.of(bench().pieces.create(body.name, fresh_document(bench().filaments.all(), body.units))))


@blueprint.post("/from-picture", operation_id="beginWithPicture", responses={200: BenchOut, 413: Problem})
def begin_with_picture(form: PictureForm) -> Response:
    """A piece that begins with a picture; nothing is stored when the picture cannot be used."""
    # The name comes first: the worker that traces the picture then holds it for the piece.
    key = new_id()
    fresh = fresh_document(bench().filaments.all(), form.units)
    data, name = uploaded(form.picture)
    taken = intake.take_picture(bench(), key, fresh, data, name)
    title, brings = intake.title_of_picture(taken), (Bytes(data, taken.media_type),)
    return bench_reply(bench().pieces.create(title, taken.document, key=key, brings=brings), taken.flat)


@blueprint.post("/from-recipe", operation_id="beginWithRecipe", responses={200: BenchOut, 413: Problem})
def begin_with_recipe(form: RecipeForm) -> Response:
    """A piece that a recipe describes; nothing is stored when it cannot be made."""
    key = new_id()
    made = intake.take_recipe(bench(), key, {name or "recipe.json": data for data, name in map(uploaded, form.files)})
    brings = [Bytes(*asset) for asset in made.assets.values()]
    state = bench().pieces.create(intake.title_of(made.title), made.document, key=key, brings=brings)
    return bench_reply(state, made.flat)


@blueprint.get("/<piece_id>", operation_id="openPiece", responses={200: BenchOut})
def open_piece(path: PiecePath) -> Response:
    """A piece and its flat view."""
    state = bench().pieces.get(path.piece_id)
    return bench_reply(state, bench().flat(state.id, state.document))


@blueprint.get("/<piece_id>/head", operation_id="pieceHead", responses={200: PieceHeadOut})
def piece_head(path: PiecePath) -> Response:
    """At which revision a piece stands, without what is in it: a page asks when it comes back to the front."""
    return reply(PieceHeadOut.head(bench().pieces.get(path.piece_id), right()))


@blueprint.patch("/<piece_id>", operation_id="renamePiece", responses={200: PieceOut})
def rename_piece(path: PiecePath, body: Rename) -> Response:
    """Another name."""
    return reply(PieceOut.of(bench().pieces.rename(path.piece_id, body.name)))


@blueprint.post("/<piece_id>/duplicate", operation_id="duplicatePiece", responses={200: PieceOut})
def duplicate_piece(path: PiecePath) -> Response:
    """A second piece like this one."""
    name = bench().pieces.get(path.piece_id).name
    return reply(PieceOut.of(bench().pieces.duplicate(path.piece_id, f"{name[:110]}, copy")))


@blueprint.delete("/<piece_id>", operation_id="deletePiece", responses={204: None})
def delete_piece(path: PiecePath) -> Response:
    """Put a piece away; it can be brought back."""
    bench().pieces.delete(path.piece_id)
    return make_response("", 204)


@blueprint.post("/<piece_id>/restore", operation_id="restorePiece", responses={200: PieceOut})
def restore_piece(path: PiecePath) -> Response:
    """Bring a deleted piece back."""
    return reply(PieceOut.of(bench().pieces.restore(path.piece_id)))


@blueprint.get("/<piece_id>/picture/<int:revision>", operation_id="pieceThumbnail", responses={200: None})
def piece_thumbnail(path: SolidPath) -> Response:
    """The piece as a small drawing (SVG)."""
    key = hashlib.sha256(f"thumbnail 1 {path.piece_id} {path.revision}".encode()).hexdigest()
    found = bench().derived.get(key)
    if found is None:
        document = bench().pieces.at(path.piece_id, path.revision)
        # What is long past is drawn beside the piece's own worker, which the hand may need.
        stands = bench().pieces.get(path.piece_id).revision == path.revision
        flat = (bench().flat if stands else bench().flat_aside)(path.piece_id, document)
        found = (thumbnail(document, flat), "image/svg+xml")
        bench().derived.put(key, *found)
    return unchanging(*found)
