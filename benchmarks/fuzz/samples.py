"""Valid files of every kind that is read, small, to be spoilt."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image

from drelo.core.lettering.fonts import font_of
from drelo.core.lettering.layout import Setting, letters
from drelo.core.picture.decode import decode
from drelo.core.piece.former import read_document
from drelo.core.solid.mesh import welded
from drelo.formats.archive import read_zip, zipped
from drelo.formats.drawing_in import read_drawing
from drelo.formats.name_list import read_names
from drelo.formats.piece_archive import read_archive
from drelo.formats.recipe import read_recipe
from drelo.formats.stl import read_stl, write_stl
from drelo.formats.threemf import Body, read_3mf, write_3mf

ROOT = Path(__file__).resolve().parents[2]
SVG = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<svg xmlns="http://www.w3.org/2000/svg" '
    'xmlns:xlink="http://www.w3.org/1999/xlink" width="40mm" height="30mm" viewBox="0 0 400 300">'
    "<style>.a{fill:#c03;stroke:#024;stroke-width:2}</style>"
    '<defs><g id="leaf"><path d="M0 0C10-20 40-20 50 0S10 20 0 0Z"/></g>'
    '<linearGradient id="l"><stop offset="0" stop-color="#fff"/></linearGradient></defs>'
    '<g transform="translate(20,30) rotate(12) scale(1.5)" opacity="0.9">'
    '<rect x="10" y="10" width="80" height="40" rx="6" class="a"/>'
    '<circle cx="150" cy="60" r="30" style="fill:none;stroke:#000;stroke-width:4"/>'
    '<ellipse cx="200" cy="150" rx="40" ry="20" fill="url(#l)"/>'
    '<polygon points="10,100 60,120 40,180" fill-rule="evenodd"/>'
    '<polyline points="100,100 160,120 140,180" stroke="#333" stroke-linecap="round" fill="none"/>'
    '<line x1="1" y1="2" x2="90" y2="80" stroke="rgb(10%,20%,30%)" stroke-width="1.5mm"/>'
    '<path d="M250 50a30 20 15 1 0 40 10q10 40 20 0t40 0h12v-9l5 5z"/>'
    '<use href="#leaf" x="30" y="200"/><use xlink:href="#leaf" transform="matrix(1 0 .2 1 90 200)"/>'
    "<text>words</text></g></svg>"
)
DXF = (
    "0\nSECTION\n2\nHEADER\n9\n$ACADVER\n1\nAC1009\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n"
    "0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n8\n0\n2\nB\n70\n0\n10\n0\n20\n0\n30\n0\n3\nB\n"
    "0\nCIRCLE\n8\n0\n10\n5\n20\n5\n40\n3\n0\nENDBLK\n8\n0\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n"
    "0\nLINE\n8\ncut\n62\n1\n10\n0\n20\n0\n11\n20\n21\n0\n0\nARC\n8\n0\n10\n10\n20\n0\n40\n10\n50\n0\n51\n180\n"
    "0\nPOLYLINE\n8\n0\n66\n1\n70\n1\n0\nVERTEX\n8\n0\n10\n30\n20\n0\n42\n0.5\n0\nVERTEX\n8\n0\n10\n40\n20\n0\n"
    "0\nVERTEX\n8\n0\n10\n40\n20\n9\n0\nSEQEND\n8\n0\n"
    "0\nINSERT\n8\n0\n2\nB\n10\n50\n20\n0\n41\n2\n42\n2\n50\n30\n70\n2\n71\n2\n44\n20\n45\n20\n0\nENDSEC\n0\nEOF\n"
)
RECIPE = {
    "drelo": 1,
    "form": "relief",
    "art": {"text": {"text": "Ada", "font": "slab", "height": 12, "path": "above", "radius": 40}},
    "base": {"shape": "rectangle", "margin": 3, "thickness": 2, "corner_radius": 1},
    "heights": [{"fill": "#000000", "height": 1.5, "edge": {"kind": "bevel", "size": 0.3}, "name": "words"}],
    "filaments": [{"name": "Rust", "colour": "#c8553d"}],
}


@dataclass(frozen=True)
class Kind:
    """A kind of file: samples of it, and what reads them."""

    read: Callable[[bytes], object]
    samples: tuple[bytes, ...]
    is_text: bool = False


def _picture(mode: str) -> Image.Image:
    y, x = np.mgrid[:24, :32]
    ink = (np.hypot(x - 16, y - 12) < 8).astype(np.uint8)
    rgba = np.stack([200 * ink, 90 * ink, 255 - 200 * ink, 255 - 100 * ink], axis=2).astype(np.uint8)
    if mode == "I;16":
        return Image.fromarray(60_000 * ink.astype(np.uint16))
    return Image.fromarray(rgba, "RGBA").convert(mode)


def _pictures() -> tuple[bytes, ...]:
    found = []
    for kind, modes in (
        ("PNG", ("1", "L", "LA", "P", "RGB", "RGBA", "I;16")),
        ("JPEG", ("L", "RGB", "CMYK")),
        ("WEBP", ("RGB", "RGBA")),
        ("GIF", ("P",)),
        ("BMP", ("1", "L", "RGB")),
        ("TIFF", ("1", "L", "RGB", "RGBA", "CMYK")),
    ):
        for mode in modes:
            packed = io.BytesIO()
            _picture(mode).save(packed, kind)
            found.append(packed.getvalue())
    return tuple(found)


def _mesh() -> np.ndarray:
    corners = np.array([[0, 0, 0], [9, 0, 0], [0, 9, 0], [0, 0, 9]], np.float32)
    return corners[np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]])]


def _ascii_stl() -> bytes:
    rows = ["solid a"]
    for triangle in _mesh().tolist():
        rows += ["facet normal 0 0 1", "outer loop", *("vertex {} {} {}".format(*p) for p in triangle), "endloop"]
        rows.append("endfacet")
    return "\n".join([*rows, "endsolid a"]).encode()


def _words(font: bytes) -> object:
    # Lettering as well, so that outlines are drawn, not only tables read.
    font_of.cache_clear()
    return letters("Aa g8", font_of(font), Setting())


def _names() -> bytes:
    out = io.StringIO()
    csv.writer(out).writerows([["name", "note"], ['Ada, "the" first', "x"], ["Grün", ""], ["Bo", "7"]])
    return out.getvalue().encode()


GOLDEN = ROOT / "tests/golden/archive-1.zip"


def _document(data: bytes) -> object:
    """The document of an archive of a piece."""
    return read_document(read_archive(data).document)


def _packed(told: bytes) -> bytes:
    """An archive with this as its piece.json."""
    return zipped(read_zip(GOLDEN.read_bytes()) | {"piece.json": told})


def kinds() -> dict[str, Kind]:
    """Every kind by its name."""
    art = [p.read_bytes() for p in sorted((ROOT / "demo" / "art").glob("*.svg"))[:2]]
    fonts = [p.read_bytes() for p in sorted((ROOT / "src/drelo/formats/fonts").glob("s*.woff2"))[:2]]
    mesh = welded(_mesh())
    recipe = json.dumps(RECIPE, indent=1).encode()
    package = zipped({"recipe.json": recipe, "art.svg": SVG.encode()})
    return {
        "svg": Kind(lambda d: read_drawing(d, "a.svg"), (SVG.encode(), SVG.encode("utf-16"), *art), True),
        "dxf": Kind(lambda d: read_drawing(d, "a.dxf"), (DXF.encode(),), True),
        "picture": Kind(decode, _pictures()),
        "font": Kind(_words, tuple(fonts)),
        "zip": Kind(read_zip, (package,)),
        "archive": Kind(_document, (GOLDEN.read_bytes(),)),
        "piece": Kind(lambda d: _document(_packed(d)), (read_zip(GOLDEN.read_bytes())["piece.json"],), True),
        "recipe": Kind(read_recipe, (recipe,), True),
        "names": Kind(read_names, (_names(),), True),
        "stl": Kind(read_stl, (write_stl(mesh), _ascii_stl())),
        "3mf": Kind(read_3mf, (write_3mf([Body("a", "#c8553d", mesh)]),)),
    }
