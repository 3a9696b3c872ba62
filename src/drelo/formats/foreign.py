"""Foreign files, each read behind the guard: what is damaged, endless or drawn to break its reader is refused."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from drelo.core.picture.decode import Picture, decode
from drelo.formats.archive import read_zip
from drelo.guard import guarded

if TYPE_CHECKING:
    from drelo.formats.drawing_in import Drawing, Reading
    from drelo.formats.dxf_in import DxfArt
    from drelo.formats.piece_archive import PieceArchive
    from drelo.formats.svg_in import SvgArt
    from drelo.formats.threemf import Body

# A drawing of ten thousand loops takes twenty seconds, and twice that on a slow machine.
DRAWING_SECONDS = 60.0
# A mesh may take as much memory as the largest that is taken.
MESH_MEMORY = 2000 * 2**20
MESH_SECONDS = 60.0


def picture(data: bytes) -> Picture:
    """A picture's pixels."""
    return guarded(decode, data, what="picture", field="picture")


def drawing(data: bytes, name: str, how: Reading | None = None) -> Drawing:
    """An SVG or DXF as closed outlines and open lines, ready for the sheet."""
    from drelo.formats.drawing_in import PLAIN, read_drawing

    return guarded(read_drawing, data, name, how or PLAIN, what="drawing", field="drawing", seconds=DRAWING_SECONDS)


def svg(data: bytes) -> SvgArt:
    """An SVG's shapes in painting order."""
    from drelo.formats.svg_in import read_svg

    return guarded(read_svg, data, what="SVG", field="art.file", seconds=DRAWING_SECONDS)


def dxf(data: bytes) -> DxfArt:
    """A DXF's loops and open lines."""
    from drelo.formats.dxf_in import read_dxf

    return guarded(read_dxf, data, what="DXF", field="art.file", seconds=DRAWING_SECONDS)


def check_font(data: bytes) -> str:
    """A font's name. Raises Refusal when it is none; what passes once is read without the guard from then on."""
    return guarded(_name_of_font, data, what="font", field="font")


def _name_of_font(data: bytes) -> str:
    from drelo.core.lettering.fonts import font_of

    return font_of(data).name


def archive(data: bytes) -> Mapping[str, bytes]:
    """The files of a ZIP."""
    return guarded(read_zip, data, what="ZIP", field="files")


def piece_archive(data: bytes) -> PieceArchive:
    """A piece that left in an archive."""
    from drelo.formats.piece_archive import read_archive

    return guarded(read_archive, data, what="archive", field="files")


def mesh(data: bytes, name: str) -> list[Body]:
    """The bodies of an STL or 3MF."""
    return guarded(_bodies, data, name, what="mesh", seconds=MESH_SECONDS, memory=MESH_MEMORY)


def _bodies(data: bytes, name: str) -> list[Body]:
    from drelo.formats.stl import read_stl
    from drelo.formats.threemf import Body, read_3mf

    return read_3mf(data) if data[:2] == b"PK" else [Body(name, "", read_stl(data))]
