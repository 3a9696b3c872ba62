"""What runs in a worker: plain functions of a document, with the worker's memory of stages."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, TypeVar

import shapely

from drelo.core.errors import Refusal
from drelo.core.form.base import Base
from drelo.core.form.relief import Part, relief
from drelo.core.picture.show import shown
from drelo.core.piece.applying import apply
from drelo.core.piece.art import WORKING_PIXELS
from drelo.core.piece.difference import Difference
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import Point
from drelo.core.piece.edits import PutPicture
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.flat import Flat, FlatRemark, OutcomeView, flat_difference
from drelo.core.piece.former import brought_up
from drelo.core.piece.incoming import in_place_of, laid_out
from drelo.core.piece.look_over import LookOver
from drelo.core.piece.memo import Memo
from drelo.core.piece.pictures import Permission, PlacedPicture, TraceSettings
from drelo.core.piece.prospects import Prospects
from drelo.core.rehearsal.settings import Manner, Printer, Spool
from drelo.core.rehearsal.troubles import Trouble
from drelo.core.rehearsal.whole import rehearse
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.seal import check_seal
from drelo.core.trace.modes import MODES, Mode, prepare
from drelo.core.trace.pen.cling import cling, edge_near
from drelo.formats import foreign
from drelo.formats.archive import zipped
from drelo.formats.fonts import shipped_font
from drelo.formats.glb import write_glb
from drelo.formats.outcome_picture import outcome_picture
from drelo.formats.product import FileKind, Product, product_of, wrapping_of
from drelo.formats.recipe_in import choices_of, gather_recipe, piece_of, sized
from drelo.formats.recipe_out import RecipePart, write_recipe
from drelo.formats.stl import read_stl, write_stl
from drelo.work.parcels import Parcel, opened

Checkpoint = Callable[[], None]
T = TypeVar("T")
# Pictures whose bytes a worker keeps.
KEEP_ASSETS = 24
# Previews that follow the hand are made from at most so many pixels.
COARSE_PIXELS = 450_000
# … and for small pictures of what the ways to trace would give.
WAY_PIXELS = 250_000

_memo = Memo()
_assets: OrderedDict[str, bytes] = OrderedDict()


class AssetMissing(LookupError):
    """The worker does not hold the bytes of an asset; ask again with them."""

    def __init__(self, sha256: str) -> None:
        super().__init__(sha256)
        self.sha256 = sha256


@dataclass(frozen=True)
class Wanted:
    """What is said of a picture that comes in: where it came from, and which one it takes the place of.

    at: where its middle goes, mm on the sheet; without it, beside what lies there.
    """

    origin: str = ""
    permission: Permission = "unknown"
    replaces: str | None = None
    at: Point | None = None


@dataclass(frozen=True)
class TakenIn:
    """A document with its new picture, the edit that makes it, the picture's media type, and the flat view."""

    document: Document
    edit: PutPicture
    media_type: str
    flat: Flat


@dataclass(frozen=True)
class Clung:
    """Where a line that clings to an edge ends, and the points along it, mm on the sheet."""

    to: Point
    points: tuple[Point, ...]


def warm() -> None:
    """Import, and load or compile, what a first job would wait for."""
    warm_traces()
    warm_solids()


def warm_traces() -> None:
    """What a first trace would wait for."""
    for mode in MODES:
        prepare(mode)


def warm_solids() -> None:
    """What a first solid, its file and its rehearsal would wait for."""
    import lib3mf

    lib3mf.get_wrapper()
    # Two squares that meet in one point: every loop from outlines to checked bytes is run through.
    parts = [Part(shapely.box(at, at, at + 9, at + 9), 1.0 + at, "#000000", "") for at in (0, 9)]
    design = relief(parts, Base("none"), 0.01)
    mesh = raise_body(design, arrange_design(design))
    check_seal(read_stl(write_stl(mesh)))
    rehearse([mesh], [Spool()], Printer(), Manner())


def forget_half() -> None:
    """Forget what this worker has not needed for longest."""
    _memo.halve()
    while len(_assets) > KEEP_ASSETS // 2:
        _assets.popitem(last=False)


def on_documents(
    checkpoint: Checkpoint, assets: Mapping[str, bytes], function: Callable[..., T], document: Parcel, *more: Any
) -> T:
    """A task on a document, and on others among its arguments, that come as parcels. Raises DocumentMissing."""
    return function(checkpoint, opened(document), assets, *(opened(m) if isinstance(m, Parcel) else m for m in more))


def evaluation(checkpoint: Checkpoint, assets: Mapping[str, bytes], most: int = WORKING_PIXELS) -> Evaluation:
    """Evaluation with this worker's memory; it keeps the assets that it is sent."""
    for sha256, data in assets.items():
        _assets[sha256] = data
        while len(_assets) > KEEP_ASSETS:
            _assets.popitem(last=False)

    def find(sha256: str) -> bytes:
        if sha256.startswith("font:"):
            return shipped_font(sha256.removeprefix("font:"))
        if sha256 not in _assets:
            raise AssetMissing(sha256)
        _assets.move_to_end(sha256)
        return _assets[sha256]

    return Evaluation(find, _memo, checkpoint, most, foreign.picture)


def _laid_out(evaluated: Evaluation, document: Document, picture: PlacedPicture, at: Point | None) -> PlacedPicture:
    """A picture where it belongs; as ink where it traces to nothing as what it seemed."""
    try:
        return laid_out(evaluated, document, picture, at)
    except Refusal:
        if picture.trace.mode == "ink":
            raise
        return laid_out(evaluated, document, picture.model_copy(update={"trace": TraceSettings()}), at)


def take_in(
    checkpoint: Checkpoint,
    document: Document,
    assets: Mapping[str, bytes],
    data: bytes,
    name: str,
    wanted: Wanted,
) -> TakenIn:
    """A document with one picture more, or another one in the place of one that is there.

    Raises Refusal when the picture cannot be used or traces to nothing.
    """
    sha256 = hashlib.sha256(data).hexdigest()
    evaluated = evaluation(checkpoint, {**assets, sha256: data})
    decoded = evaluated.asset_picture(sha256)
    # At first it is traced as what it is.
    mode = evaluated.proposed(sha256)
    picture = PlacedPicture(
        trace=TraceSettings(mode=mode),
        id=_free_id(document, f"s{sha256[:10]}"),
        asset=sha256,
        name=name,
        width=decoded.width,
        height=decoded.height,
        origin=wanted.origin,
        permission=wanted.permission,
    )
    if wanted.replaces is not None:
        picture = in_place_of(evaluated, document, picture, wanted.replaces)
    else:
        picture = _laid_out(evaluated, document, picture, wanted.at)
    edit = PutPicture(source=picture)
    after = apply(document, edit)
    return TakenIn(after, edit, decoded.media_type, evaluated.flat(after))


def _free_id(document: Document, wanted: str) -> str:
    """An id that no picture of the piece has: the same file may lie on a sheet twice."""
    taken = {p.id for p in document.pictures}
    names = (wanted, *(f"{wanted}{number}" for number in range(2, len(taken) + 3)))
    return next(name for name in names if name not in taken)


def underlay(checkpoint: Checkpoint, data: bytes) -> tuple[bytes, str]:
    """The picture upright, in a form that every browser shows, and its media type."""
    picture = foreign.picture(data)
    checkpoint()
    return shown(picture)


def look(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], picture: str) -> tuple[bytes, str]:
    """A picture after its care, in a form that every browser shows, and its media type."""
    return shown(evaluation(checkpoint, assets).picture(picture_of(document, picture)))


def picture_of(document: Document, name: str | None) -> PlacedPicture:
    """A picture of the piece; without a name the first one. Raises Refusal when it is not there."""
    found = document.picture(name)
    if found is None:
        raise Refusal("piece.no-such-picture-yet", "picture")
    return found


def bring_up(checkpoint: Checkpoint, former: Mapping[str, Any], assets: Mapping[str, bytes]) -> Document:
    """A stored document of an earlier version as one of this version."""
    return brought_up(former, evaluation(checkpoint, assets))


def flat(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], coarse: bool = False) -> Flat:
    """The flat view; coarse: of a picture that is reduced so far that it follows the hand."""
    return evaluation(checkpoint, assets, COARSE_PIXELS if coarse else WORKING_PIXELS).flat(document)


def way(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], name: str, mode: Mode) -> Flat:
    """What a picture alone comes to when it is traced in a mode, small. Raises Refusal when that is nothing."""
    placed = picture_of(document, name)
    trace = placed.trace.model_copy(update={"mode": mode})
    plain = {"trace": trace, "areas": (), "pen": (), "mends": (), "hidden": False, "tracing": True}
    alone = Document(pictures=(placed.model_copy(update=plain),), filaments=document.filaments)
    return evaluation(checkpoint, assets, WAY_PIXELS).flat(alone)


def flat_change(
    checkpoint: Checkpoint, after: Document, assets: Mapping[str, bytes], before: Document, coarse: bool = False
) -> Difference:
    """What of the flat view changed from one document to another."""
    known = evaluation(checkpoint, assets).flat(before)
    return flat_difference(known, flat(checkpoint, after, assets, coarse))


def look_over(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes]) -> LookOver:
    return evaluation(checkpoint, assets).look_over(document)


def prospects(
    checkpoint: Checkpoint,
    document: Document,
    assets: Mapping[str, bytes],
    found: Sequence[Trouble],
    manner: Manner,
    nozzle: float,
) -> Prospects:
    """What a rehearsal found, on the sheet, with its mends."""
    return evaluation(checkpoint, assets).prospects(document, found, manner, nozzle)


def outcome(
    checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], spread: float, rise: float
) -> OutcomeView:
    """What the stamp prints or the cutter's biscuit looks like."""
    return evaluation(checkpoint, assets).outcome_view(document, spread, rise)


def outcome_png(
    checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], spread: float, rise: float, dpi: float
) -> bytes:
    """The same as a PNG."""
    found = evaluation(checkpoint, assets).outcome(document, spread, rise)
    return outcome_picture(found, document.form == "cutter", dpi)


def clung(
    checkpoint: Checkpoint,
    document: Document,
    assets: Mapping[str, bytes],
    name: str | None,
    start: Point,
    end: Point,
    snap: bool,
) -> Clung:
    """The way along the strongest edge of a picture from one point to another, mm on the sheet."""
    placed = picture_of(document, name)
    picture, place = evaluation(checkpoint, assets).picture(placed), placed.place
    (x, y), (w, h) = place.in_picture(end), (picture.width, picture.height)
    inside = (min(max(x, 0.0), float(w)), min(max(y, 0.0), float(h)))
    to = edge_near(picture, inside) if snap else inside
    points = cling(picture, place.in_picture(start), to)
    return Clung(place.on_sheet(to), tuple(place.on_sheet((float(px), float(py))) for px, py in points))


def solid(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes]) -> bytes:
    """The surface for the screen as binary glTF."""
    return write_glb(evaluation(checkpoint, assets).raised(document))


def take_away(
    checkpoint: Checkpoint,
    document: Document,
    assets: Mapping[str, bytes],
    kind: FileKind,
    within: float,
    title: str,
) -> Product:
    """The file of a piece with curves within a tolerance (mm). Raises Refusal when its bytes are not sealed."""
    made = evaluation(checkpoint, assets).made(document, within)
    return product_of(made, kind, wrapping_of(document, title))


@dataclass(frozen=True)
class FromRecipe:
    """A piece made of a recipe: its document, flat view, and the bytes and media types that it needs by hash."""

    document: Document
    flat: Flat
    assets: Mapping[str, tuple[bytes, str]]
    title: str


def from_recipe(checkpoint: Checkpoint, files: Mapping[str, bytes]) -> FromRecipe:
    """A piece of a recipe and its art. Raises Refusal, naming the field, when it cannot be made."""
    told, loose, title = gather_recipe(files)
    piece = piece_of(told, loose)
    evaluated = evaluation(checkpoint, {sha256: data for sha256, (data, _) in piece.assets.items()})
    at_size = sized(told, piece.document, evaluated)
    choices = choices_of(told, at_size, evaluated.flat(at_size).regions)
    document = at_size.model_copy(update={"regions": choices})
    flat = evaluated.flat(document)
    return FromRecipe(
        document, replace(flat, remarks=(*map(FlatRemark, piece.remarks), *flat.remarks)), piece.assets, title
    )


def recipe(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes]) -> bytes:
    """A ZIP of the recipe that makes this piece, and of its art."""
    chosen = {c.id: c for c in document.regions}
    evaluated = evaluation(checkpoint, assets)
    edges = [(chosen.get(r.id) and chosen[r.id].edge) or document.default_edge for r in evaluated.kept(document)]
    parts = [
        RecipePart(outline, part.height, part.colour, part.name, edge, part.hole)
        for (outline, part), edge in zip(evaluated.decided(document), edges, strict=True)
    ]
    return zipped(write_recipe(document, parts))
