"""What runs in a worker: plain functions of a document, with the worker's memory of stages."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Literal

import shapely

from drelo.core.errors import Refusal
from drelo.core.form.base import Base
from drelo.core.form.relief import Part, relief
from drelo.core.picture.decode import decode
from drelo.core.picture.show import shown
from drelo.core.piece.art import WORKING_PIXELS
from drelo.core.piece.difference import Difference
from drelo.core.piece.document import PERMISSION_WORDS, Document, Point, Source
from drelo.core.piece.edits import PutPicture, apply
from drelo.core.piece.evaluate import Built, Evaluation
from drelo.core.piece.flat import Flat, flat_difference
from drelo.core.piece.look_over import LookOver
from drelo.core.piece.memo import Memo
from drelo.core.piece.weak_spots import WeakPlace
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.seal import check_seal
from drelo.core.trace.cling import cling, edge_near
from drelo.core.trace.modes import MODES, prepare
from drelo.formats.archive import unzipped, zipped
from drelo.formats.design_picture import design_picture
from drelo.formats.fonts import shipped_font
from drelo.formats.glb import write_glb
from drelo.formats.names import distinct_names
from drelo.formats.recipe_in import choices_of, gather_recipe, piece_of
from drelo.formats.recipe_out import RecipePart, write_recipe
from drelo.formats.stl import read_stl, write_stl
from drelo.formats.threemf import Body, read_3mf, write_3mf

FileKind = Literal["stl", "stl-each", "3mf"]
SUFFIX: dict[FileKind, str] = {"stl": "stl", "stl-each": "zip", "3mf": "3mf"}
ZIP = "application/zip"
Checkpoint = Callable[[], None]
# Pictures whose bytes a worker keeps.
KEEP_ASSETS = 24
# Previews that follow the hand are made from at most so many pixels.
COARSE_PIXELS = 450_000

_memo = Memo()
_assets: OrderedDict[str, bytes] = OrderedDict()


class AssetMissing(LookupError):
    """The worker does not hold the bytes of an asset; ask again with them."""

    def __init__(self, sha256: str) -> None:
        super().__init__(sha256)
        self.sha256 = sha256


@dataclass(frozen=True)
class SealedFile:
    """A file ready to be taken away, and what the seal found in its bytes."""

    data: bytes
    media_type: str
    suffix: str
    sealed: bool
    problems: tuple[str, ...]
    triangles: int
    parts: int
    volume: float
    size: tuple[float, float, float]
    bodies: tuple[tuple[str, str, float], ...]
    remarks: tuple[str, ...]


@dataclass(frozen=True)
class Clung:
    """Where a line that clings to an edge ends, and the points along it, px."""

    to: Point
    points: tuple[Point, ...]


def warm() -> None:
    """Import, and load or compile, what a first job would wait for."""
    import lib3mf

    lib3mf.get_wrapper()
    for mode in MODES:
        prepare(mode)
    # Two squares that meet in one point: every loop from outlines to checked bytes is run through.
    parts = [Part(shapely.box(at, at, at + 9, at + 9), 1.0 + at, "#000000", "") for at in (0, 9)]
    design = relief(parts, Base("none"), 0.01)
    check_seal(read_stl(write_stl(raise_body(design, arrange_design(design)))))


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

    return Evaluation(find, _memo, checkpoint, most)


def take_in(
    checkpoint: Checkpoint, document: Document, data: bytes, name: str
) -> tuple[Document, PutPicture, str, Flat]:
    """A document with a new picture: the document, the edit that makes it, the media type, and the flat view.

    Raises Refusal when the picture cannot be used or traces to nothing.
    """
    sha256 = hashlib.sha256(data).hexdigest()
    evaluated = evaluation(checkpoint, {sha256: data})
    picture = evaluated.asset_picture(sha256)
    source = Source(id=f"s{sha256[:10]}", asset=sha256, name=name, width=picture.width, height=picture.height)
    edit = PutPicture(source=source)
    after = apply(document, edit)
    return after, edit, picture.media_type, evaluated.flat(after)


def underlay(checkpoint: Checkpoint, data: bytes) -> tuple[bytes, str]:
    """The picture upright, in a form that every browser shows, and its media type."""
    picture = decode(data)
    checkpoint()
    return shown(picture)


def look(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes]) -> tuple[bytes, str]:
    """The picture after its care, in a form that every browser shows, and its media type."""
    return shown(evaluation(checkpoint, assets).picture(document))


def flat(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], coarse: bool = False) -> Flat:
    """The flat view; coarse: of a picture that is reduced so far that it follows the hand."""
    return evaluation(checkpoint, assets, COARSE_PIXELS if coarse else WORKING_PIXELS).flat(document)


def flat_change(
    checkpoint: Checkpoint, after: Document, assets: Mapping[str, bytes], before: Document, coarse: bool = False
) -> Difference:
    """What of the flat view changed from one document to another."""
    known = evaluation(checkpoint, assets).flat(before)
    return flat_difference(known, flat(checkpoint, after, assets, coarse))


def look_over(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes]) -> LookOver:
    return evaluation(checkpoint, assets).look_over(document)


def weak_places(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes]) -> tuple[WeakPlace, ...]:
    return evaluation(checkpoint, assets).weak_places(document)


def clung(
    checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], start: Point, end: Point, snap: bool
) -> Clung:
    """The way along the strongest edge of the piece's picture from one point to another, px."""
    picture = evaluation(checkpoint, assets).picture(document)
    (x, y), (w, h) = end, (picture.width, picture.height)
    inside = (min(max(x, 0.0), float(w)), min(max(y, 0.0), float(h)))
    to = edge_near(picture, inside) if snap else inside
    return Clung(to, tuple((float(px), float(py)) for px, py in cling(picture, start, to)))


def solid(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes]) -> bytes:
    """The surface for the screen as binary glTF."""
    return write_glb(evaluation(checkpoint, assets).raised(document))


def _provenance(document: Document) -> dict[str, str]:
    """Where the picture came from, as metadata that the 3MF core specification knows."""
    source = document.source
    if source is None:
        return {}
    noted = {
        "Description": f"From the picture {source.name}." + (f" Source: {source.origin}" if source.origin else ""),
        "LicenseTerms": PERMISSION_WORDS[source.permission],
    }
    return {name: text for name, text in noted.items() if text}


def take_away(
    checkpoint: Checkpoint,
    document: Document,
    assets: Mapping[str, bytes],
    kind: FileKind,
    within: float,
    title: str,
) -> SealedFile:
    """Build with curves within a tolerance (mm), write, read back and check.

    Raises Refusal when the bytes are not sealed.
    """
    built = evaluation(checkpoint, assets).built(document, within)
    data, media_type = _written(built, document, kind, title)
    read = _read_back(data, kind)
    checkpoint()
    seals = [check_seal(body.mesh) for body in read]
    problems = tuple(p for seal in seals for p in seal.problems)
    if problems:
        raise Refusal(f"The file would not be sealed: {problems[0]} Change an outline or a height there.")
    whole = built.whole
    parts = int(whole.shells().max()) + 1
    return SealedFile(
        data=data,
        media_type=media_type,
        suffix=SUFFIX[kind],
        sealed=not problems,
        problems=problems,
        triangles=sum(seal.triangles for seal in seals),
        parts=parts,
        volume=whole.volume,
        size=whole.size,
        bodies=tuple((b.name, b.colour, s.volume) for b, s in zip(read, seals, strict=True)),
        remarks=built.design.remarks,
    )


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
    choices = choices_of(told, piece.document, evaluated.flat(piece.document).regions)
    document = piece.document.model_copy(update={"regions": choices})
    flat = evaluated.flat(document)
    return FromRecipe(document, replace(flat, remarks=(*piece.remarks, *flat.remarks)), piece.assets, title)


def recipe(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes]) -> bytes:
    """A ZIP of the recipe that makes this piece, and of its art."""
    chosen = {c.id: c for c in document.regions}
    evaluated = evaluation(checkpoint, assets)
    edges = [(chosen.get(r.id) and chosen[r.id].edge) or document.default_edge for r in evaluated.kept(document)]
    parts = [
        RecipePart(outline, part.height, part.colour, part.name, edge)
        for (outline, part), edge in zip(evaluated.decided(document), edges, strict=True)
    ]
    return zipped(write_recipe(document, parts))


def weigh_file(
    checkpoint: Checkpoint,
    document: Document,
    assets: Mapping[str, bytes],
    kind: FileKind,
    within: float,
    title: str,
) -> tuple[int, int]:
    """How many triangles and bytes a file would have."""
    built = evaluation(checkpoint, assets).built(document, within)
    meshes = [built.whole] if kind == "stl" else [mesh for _, _, mesh in built.bodies]
    return sum(len(m.faces) for m in meshes), len(_written(built, document, kind, title)[0])


def _written(built: Built, document: Document, kind: FileKind, title: str) -> tuple[bytes, str]:
    if kind == "stl":
        return write_stl(built.whole), "model/stl"
    if kind == "stl-each":
        stems = distinct_names([name for name, _, _ in built.bodies])
        return zipped({f"{n}.stl": write_stl(m) for n, (_, _, m) in zip(stems, built.bodies, strict=True)}), ZIP
    bodies = [Body(name, colour, mesh) for name, colour, mesh in built.bodies]
    picture = design_picture(built.design)
    return write_3mf(bodies, {"Title": title, **_provenance(document)}, picture), "model/3mf"


def _read_back(data: bytes, kind: FileKind) -> list[Body]:
    if kind == "stl":
        return [Body("piece", "", read_stl(data))]
    if kind == "stl-each":
        return [Body(name.removesuffix(".stl"), "", read_stl(part)) for name, part in unzipped(data).items()]
    return read_3mf(data)
