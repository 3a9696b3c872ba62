"""From a design to a file: raised once, written once, read back from its bytes and checked, whoever asks."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Literal

import shapely

from drelo.core.errors import Refusal
from drelo.core.form.columns import Design
from drelo.core.rehearsal.by_design import changes_of
from drelo.core.rehearsal.changes import change_words
from drelo.core.rehearsal.reach import beyond_reach
from drelo.core.rehearsal.settings import Manner
from drelo.core.solid.making import Body, Made
from drelo.core.solid.mesh import turned_over
from drelo.core.solid.raising import arrange_design
from drelo.core.solid.seal import check_seal
from drelo.formats.archive import unzipped, zipped
from drelo.formats.names import distinct_names
from drelo.formats.stl import read_stl, write_stl
from drelo.formats.threemf import read_3mf, write_3mf

if TYPE_CHECKING:
    from drelo.core.piece.document import Document

FileKind = Literal["stl", "stl-each", "3mf"]
SUFFIX: dict[FileKind, str] = {"stl": "stl", "stl-each": "zip", "3mf": "3mf"}
ZIP = "application/zip"
# A swap list longer than this is not written into a file.
MOST_SWAPS = 40
THREE_MF = "model/3mf"
Stage = Callable[[str], AbstractContextManager[None]]


@dataclass(frozen=True)
class BodyFigures:
    """What the seal found of one body in the written bytes; mm³, mm²."""

    name: str
    colour: str
    volume: float
    area: float
    triangles: int
    sealed: bool


@dataclass(frozen=True)
class Product:
    """A file ready to be taken away, and what was found in its bytes. size: mm. parts: that hang together.

    footprint: what it covers of a bed, as WKB, mm, the corner of its box at 0, 0.
    """

    data: bytes
    media_type: str
    suffix: str
    bodies: tuple[BodyFigures, ...]
    parts: int
    volume: float
    size: tuple[float, float, float]
    remarks: tuple[str, ...]
    footprint: bytes

    @property
    def triangles(self) -> int:
        return sum(body.triangles for body in self.bodies)


@dataclass(frozen=True)
class Wrapping:
    """What a file says of itself beside its meshes. nozzle: mm, of the printer that it is meant for.

    materials: what the filament of a colour, #rrggbb, is called. manner: how it is printed, for the swap list, where it
    is known. face_down: the whole is turned over, so that its top lies on the bed.
    """

    title: str
    metadata: Mapping[str, str] = field(default_factory=dict)
    nozzle: float = 0.4
    materials: Mapping[str, str] = field(default_factory=dict)
    manner: Manner | None = None
    face_down: bool = False


def wrapping_of(document: Document, title: str) -> Wrapping:
    """A piece's title, and where its pictures came from, as metadata that the 3MF core specification knows."""
    from drelo.core.piece.pictures import PERMISSION_WORDS

    told, terms = [], []
    for picture in document.pictures:
        source = f" Source: {picture.origin}" if picture.origin else ""
        told.append(f"From the picture {picture.name}.{source}")
        if PERMISSION_WORDS[picture.permission]:
            terms.append(PERMISSION_WORDS[picture.permission])
    drawn = dict.fromkeys(thing.origin for thing in document.drawn if thing.origin)
    told += [f"With {origin}." for origin in drawn]
    noted = {"Description": " ".join(told), "LicenseTerms": " ".join(dict.fromkeys(terms))}
    materials = {f.colour: f.title for f in reversed(document.filaments)}
    noted = {name: text for name, text in noted.items() if text}
    printing = document.printing
    manner = printing.manner.model_copy(update={"layer": document.layer})
    return Wrapping(title, noted, document.nozzle, materials, manner, printing.face_down)


def raised(design: Design, stage: Stage = lambda _: nullcontext()) -> Made:
    """A design arranged, ready to be written."""
    with stage("arrange"):
        return Made(design, arrange_design(design))


def product_of(made: Made, kind: FileKind, wrapping: Wrapping, stage: Stage = lambda _: nullcontext()) -> Product:
    """The file: written, read back and checked. Raises Refusal when its bytes are not sealed."""
    with stage("raise"):
        bodies = (made.flat_body,) if kind == "stl" else made.bodies
        whole = made.whole
        if wrapping.face_down:
            bodies = tuple(replace(body, mesh=turned_over(body.mesh, whole.size)) for body in bodies)
    with stage("write"):
        data, media_type = _written(bodies, made.design, kind, wrapping)
    made.checkpoint()
    with stage("check"):
        read = _read_back(data, kind, bodies)
        seals = [check_seal(body.mesh) for body in read]
    for body, seal in zip(read, seals, strict=True):
        if not seal.sealed:
            raise Refusal("solid.body-not-sealed", body=body.name, problem=seal.problems[0])
    figures = tuple(
        BodyFigures(body.name, body.colour, seal.volume, seal.area, seal.triangles, seal.sealed)
        for body, seal in zip(read, seals, strict=True)
    )
    return Product(
        data=data,
        media_type=media_type,
        suffix=SUFFIX[kind],
        bodies=figures,
        parts=int(whole.shells().max()) + 1,
        volume=whole.volume,
        size=whole.size,
        remarks=tuple(map(str, (*made.design.remarks, *beyond_reach(whole.size, wrapping.nozzle)))),
        footprint=shapely.to_wkb(made.footprint(wrapping.face_down)),
    )


def _written(bodies: tuple[Body, ...], design: Design, kind: FileKind, wrapping: Wrapping) -> tuple[bytes, str]:
    if kind == "stl":
        return write_stl(bodies[0].mesh), "model/stl"
    if kind == "stl-each":
        stems = distinct_names([body.name for body in bodies])
        return zipped({f"{n}.stl": write_stl(b.mesh) for n, b in zip(stems, bodies, strict=True)}), ZIP
    metadata = {"Title": wrapping.title, **wrapping.metadata}
    told = [wrapping.metadata.get("Description", ""), swaps(design, wrapping)]
    if any(told):
        metadata["Description"] = " ".join(filter(None, told))
    from drelo.formats.design_picture import design_picture

    return write_3mf(bodies, metadata, design_picture(design), wrapping.materials), THREE_MF


def swaps(design: Design, wrapping: Wrapping) -> str:
    """The filament changes of a design in words; nothing where there are none, or too many to be read."""
    found = changes_of(design, wrapping.manner, wrapping.face_down) if wrapping.manner else ()
    if not 0 < len(found) <= MOST_SWAPS:
        return ""
    names = [wrapping.materials.get(f.colour.lower(), f.name) for f in design.filaments]
    return "Filament changes: " + "; ".join(change_words(c, names) for c in found) + "."


def _read_back(data: bytes, kind: FileKind, bodies: tuple[Body, ...]) -> list[Body]:
    if kind == "stl":
        return [Body(bodies[0].name, bodies[0].colour, read_stl(data))]
    if kind == "stl-each":
        read = unzipped(data)
        return [Body(b.name, b.colour, read_stl(part)) for b, part in zip(bodies, read.values(), strict=True)]
    return read_3mf(data)
