"""Files that somebody sends who means no good, or whose program went wrong; each small, most of them cheap to make."""

from __future__ import annotations

import io
import struct
import zipfile
import zlib
from collections.abc import Callable

import numpy as np
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen

SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="40mm" viewBox="0 0 40 40">{}</svg>'


def svg(inside: str) -> bytes:
    return SVG.format(inside).encode()


def groups(size: int) -> bytes:
    """Group after group that none closes."""
    head = b'<svg xmlns="http://www.w3.org/2000/svg">'
    return head + b"<g " * ((size - len(head)) // 3)


def nested_groups(size: int) -> bytes:
    return b'<svg xmlns="http://www.w3.org/2000/svg">' + b"<g>" * (size // 3)


def uses(wide: int, deep: int) -> bytes:
    """Each level draws the one below it ten times."""
    levels = ['<g id="l0"><path d="M0,0L1,0L0,1Z"/></g>']
    for level in range(1, deep + 1):
        levels.append(
            f'<g id="l{level}">'
            + "".join(f'<use href="#l{level - 1}" x="{2 * n * wide ** (level - 1)}"/>' for n in range(wide))
            + "</g>"
        )
    return svg("<defs>" + "".join(levels) + f'</defs><use href="#l{deep}"/>')


def self_use() -> bytes:
    return svg('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g><path d="M0,0L9,0L9,9Z"/>')


def self_use_by_the_last_of_a_name() -> bytes:
    rects = '<rect width="4" height="4"/>' * 20
    return svg(f'<path id="a" d="M0,0L9,0L9,9Z"/><g id="a">{rects}<use href="#a"/><use href="#a"/></g>')


def tangle(points: int, stroke: bool = False) -> bytes:
    at = np.random.default_rng(7).uniform(0, 40, (points, 2))
    path = "M" + "L".join(f"{x:.3f},{y:.3f}" for x, y in at)
    style = 'fill="none" stroke="#000" stroke-width="0.2"' if stroke else 'fill="#000"'
    return svg(f'<path {style} d="{path}Z"/>')


def path(data: str, more: str = "") -> bytes:
    return svg(f'<path d="{data}" {more}/>')


def entities(encoding: str) -> bytes:
    layers = "".join(f'<!ENTITY e{n} "{f"&e{n - 1};" * 10 if n else "lol" * 10}">' for n in range(9))
    text = (
        f'<?xml version="1.0" encoding="{encoding}"?><!DOCTYPE svg [{layers}]>'
        f'<svg xmlns="http://www.w3.org/2000/svg"><title>&e8;</title><path d="M0,0L9,0L9,9Z"/></svg>'
    )
    return text.encode(encoding)


def attributes(count: int) -> bytes:
    return svg("<path " + " ".join(f'a{n}="1"' for n in range(count)) + ' d="M0,0L9,0L9,9Z"/>')


def dxf(blocks: str = "", entities: str = "", tables: str = "") -> bytes:
    return (
        "0\nSECTION\n2\nHEADER\n9\n$ACADVER\n1\nAC1009\n0\nENDSEC\n"
        f"{tables}0\nSECTION\n2\nBLOCKS\n{blocks}0\nENDSEC\n"
        f"0\nSECTION\n2\nENTITIES\n{entities}0\nENDSEC\n0\nEOF\n"
    ).encode()


def block(name: str, inside: str) -> str:
    return f"0\nBLOCK\n8\n0\n2\n{name}\n70\n0\n10\n0\n20\n0\n30\n0\n3\n{name}\n{inside}0\nENDBLK\n8\n0\n"


def insert(name: str, more: str = "") -> str:
    return f"0\nINSERT\n8\n0\n2\n{name}\n10\n0\n20\n0\n30\n0\n{more}"


LINE = "0\nLINE\n8\n0\n10\n0\n20\n0\n11\n5\n21\n5\n"
LOOP = "0\nCIRCLE\n8\n0\n10\n0\n20\n0\n40\n5\n"


def dxf_nested(wide: int, deep: int) -> bytes:
    blocks = block("B0", LOOP)
    for level in range(1, deep + 1):
        blocks += block(f"B{level}", insert(f"B{level - 1}") * wide)
    return dxf(blocks, insert(f"B{deep}"))


def dxf_ring() -> bytes:
    return dxf(block("A", insert("B") + LOOP) + block("B", insert("A")), insert("A"))


def dxf_array(rows: int, columns: int) -> bytes:
    return dxf(block("A", LOOP), insert("A", f"70\n{columns}\n71\n{rows}\n44\n20\n45\n20\n"))


def dxf_numbers(digits: int) -> bytes:
    return dxf(entities="0\nLINE\n8\n0\n10\n" + "9" * digits + "\n20\n0\n11\n5\n21\n5\n" + LOOP)


def plain_font() -> bytes:
    """A font of one letter."""
    pen = TTGlyphPen(None)
    pen.moveTo((0, 0))
    pen.lineTo((500, 0))
    pen.lineTo((250, 700))
    pen.closePath()
    empty = TTGlyphPen(None).glyph()
    font = FontBuilder(1000)
    font.setupGlyphOrder([".notdef", "A"])
    font.setupCharacterMap({65: "A"})
    font.setupGlyf({".notdef": empty, "A": pen.glyph()})
    font.setupHorizontalMetrics({".notdef": (500, 0), "A": (600, 0)})
    font.setupHorizontalHeader(ascent=800, descent=-200)
    font.setupNameTable({"familyName": "Plain", "styleName": "Regular"})
    font.setupOS2()
    font.setupPost()
    out = io.BytesIO()
    font.save(out)
    return out.getvalue()


def woff_of_zeros(size: int) -> bytes:
    """A WOFF with a table of so many zeros, packed."""
    packer = zlib.compressobj(9)
    block_of_zeros = bytes(2**20)
    packed = b"".join(packer.compress(block_of_zeros) for _ in range(size // 2**20)) + packer.flush()
    tables = {}
    plain = plain_font()
    count = struct.unpack(">H", plain[4:6])[0]
    for i in range(count):
        tag, check, at, length = struct.unpack(">4sLLL", plain[12 + 16 * i : 28 + 16 * i])
        tables[tag] = (check, plain[at : at + length], length)
    entries = sorted({**tables, b"junk": (0, packed, size & 0xFFFFFFFF)}.items())
    at = 44 + 20 * len(entries)
    directory, body = b"", b""
    for tag, (check, data, length) in entries:
        directory += struct.pack(">4sLLLL", tag, at + len(body), len(data), length, check)
        body += data + bytes(-len(data) % 4)
    total = at + len(body)
    head = struct.pack(">4sLLHHLHHLLLLL", b"wOFF", 0x00010000, total, len(entries), 0, 12, 1, 0, 0, 0, 0, 0, 0)
    return head + directory + body


def png_chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">L", len(data)) + kind + data + struct.pack(">L", zlib.crc32(kind + data))


def png_of_zeros(width: int, height: int, colour: int = 6) -> bytes:
    """A PNG with no ink in it at all: 8 bits a channel, grey (0), RGB (2) or RGBA (6)."""
    row = bytes(1 + width * {0: 1, 2: 3, 6: 4}[colour])
    packer = zlib.compressobj(9)
    body = b"".join(packer.compress(row) for _ in range(height)) + packer.flush()
    head = struct.pack(">LLBBBBB", width, height, 8, colour, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + png_chunk(b"IHDR", head) + png_chunk(b"IDAT", body) + png_chunk(b"IEND", b"")


def packed(name: str, data: bytes, how: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", how) as archive:
        archive.writestr(name, data)
    return out.getvalue()


def broken_zip(how: int) -> bytes:
    """A ZIP whose packed bytes are no longer what was packed."""
    good = bytearray(packed("recipe.json", b'{"drelo": 1}' * 400, how))
    at = good.index(b"recipe.json") + len("recipe.json") + 12
    good[at : at + 8] = bytes(b ^ 0xA5 for b in good[at : at + 8])
    return bytes(good)


def zip_offsets() -> bytes:
    good = bytearray(packed("recipe.json", b"{}", zipfile.ZIP_STORED))
    at = good.rindex(b"PK\x01\x02")
    good[at + 42 : at + 46] = struct.pack("<L", 0x7FFFFFFF)
    return bytes(good)


def stl(vertices: np.ndarray) -> bytes:
    """A binary STL of triangles, shape (n, 3, 3)."""
    rows = np.zeros(len(vertices), np.dtype([("n", "<f4", 3), ("v", "<f4", (3, 3)), ("a", "<u2")]))
    rows["v"] = vertices
    return bytes(80) + struct.pack("<L", len(rows)) + rows.tobytes()


def threemf(model: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(
            "[Content_Types].xml",
            '<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
            '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
            '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>',
        )
        archive.writestr(
            "_rels/.rels",
            '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
            '<Relationship Target="/3D/3dmodel.model" Id="r" '
            'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>',
        )
        archive.writestr("3D/3dmodel.model", model)
    return out.getvalue()


MODEL = (
    '<?xml version="1.0"?><model unit="millimeter" xml:lang="en-US" '
    'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>{}</resources>'
    '<build><item objectid="1"/></build></model>'
)


def threemf_vertices(count: int) -> bytes:
    mesh = (
        '<object id="1" type="model"><mesh><vertices>'
        + '<vertex x="0" y="0" z="0"/>' * count
        + '</vertices><triangles><triangle v1="0" v2="1" v3="2"/></triangles></mesh></object>'
    )
    return threemf(MODEL.format(mesh))


def threemf_components(deep: int) -> bytes:
    parts = "".join(
        f'<object id="{n}" type="model"><components><component objectid="{n + 1}"/></components></object>'
        for n in range(1, deep)
    )
    return threemf(MODEL.format(parts))


DRAWINGS: dict[str, tuple[str, Callable[[], bytes]]] = {
    "groups, 50 KB": ("a.svg", lambda: groups(50_000)),
    "groups, 24 MB": ("a.svg", lambda: groups(24 * 2**20)),
    "nested groups, 24 MB": ("a.svg", lambda: nested_groups(24 * 2**20)),
    "uses of uses": ("a.svg", lambda: uses(10, 10)),
    "uses in a ring": ("a.svg", self_use),
    "uses in a ring by the last of a name": ("a.svg", self_use_by_the_last_of_a_name),
    "uses of uses by another first letter": ("a.svg", lambda: uses(10, 10).replace(b'"#l', b'"+l')),
    "tangle": ("a.svg", lambda: tangle(20_000)),
    "tangle as a stroke": ("a.svg", lambda: tangle(20_000, stroke=True)),
    "entities": ("a.svg", lambda: entities("utf-8")),
    "entities in UTF-16": ("a.svg", lambda: entities("utf-16")),
    "short namespace": ("a.svg", lambda: b'<svg xmlns="x"><path d="M0,0L9,0L9,9Z"/></svg>'),
    "a page round it": ("a.svg", lambda: b'<html><svg><path d="M0,0L9,0L9,9Z"/></svg></html>'),
    "an endless arc": ("a.svg", lambda: path("M0,0A1e400,1e400 0 0 1 9,9L0,9Z")),
    "an arc of zeros": ("a.svg", lambda: path("M0,0A0,0 0 0 1 9,9A9,9 nan 0 1 0 0Z")),
    "a wide stroke": ("a.svg", lambda: path("M0,0L9,9", 'fill="none" stroke="#000" stroke-width="1e20"')),
    "Qinf": ("a.svg", lambda: path("M0,0Qinf,60 9,9Z")),
    "a number of 5000 digits": ("a.svg", lambda: path("M0,0L" + "9" * 5000 + ",9L9,0Z")),
    "a path of 5000 letters": ("a.svg", lambda: path("M" * 5000)),
    "a path of arcs": ("a.svg", lambda: path("M0,0" + "A5,5 0 1 1 9,9 5,5 0 1 1 0,0" * 100_000 + "Z")),
    "an arc of digits": ("a.svg", lambda: path("M0,0A" + "1" * 3000 + "x")),
    "arcs of digits": ("a.svg", lambda: path("M0,0A" + "5 5 0 " + "10" * 3000 + " 9Z")),
    "attributes without end": ("a.svg", lambda: attributes(400_000)),
    "a style without end": (
        "a.svg",
        lambda: svg("<style>" + "a{b:c}" * 500_000 + "</style>" + '<path d="M0,0L9,0L9,9Z"/>'),
    ),
    "transforms without end": ("a.svg", lambda: path("M0,0L9,0L9,9Z", 'transform="' + "rotate(1) " * 200_000 + '"')),
    "a drawing without area": ("a.svg", lambda: path("M0,0L9,9Z") + b""),
    "nulls": ("a.svg", lambda: b"<svg" + bytes(1000)),
    "blocks 10 wide 9 deep": ("a.dxf", lambda: dxf_nested(10, 9)),
    "blocks in a ring": ("a.dxf", dxf_ring),
    "an array of 30 000 × 30 000": ("a.dxf", lambda: dxf_array(30_000, 30_000)),
    "DXF number of 5000 digits": ("a.dxf", lambda: dxf_numbers(5000)),
    "DXF without end": ("a.dxf", lambda: b"0\nSECTION\n2\nENTITIES\n" + b"0\nLINE\n" * 500_000),
}
PICTURES: dict[str, tuple[str, Callable[[], bytes]]] = {
    "PNG of 10 000 × 10 000 RGBA": ("a.png", lambda: png_of_zeros(10_000, 10_000)),
    "PNG of 60 000 × 60 000": ("a.png", lambda: png_of_zeros(60_000, 60, 0)[:-12]),
    "PNG that states too much": (
        "a.png",
        lambda: b"\x89PNG\r\n\x1a\n" + png_chunk(b"IHDR", struct.pack(">LLBBBBB", 2**31 - 1, 2**31 - 1, 8, 6, 0, 0, 0)),
    ),
    "PNG with 200 MB of text": (
        "a.png",
        lambda: (
            b"\x89PNG\r\n\x1a\n"
            + png_chunk(b"IHDR", struct.pack(">LLBBBBB", 8, 8, 8, 0, 0, 0, 0))
            + png_chunk(b"zTXt", b"a\0\0" + zlib.compress(bytes(200 * 2**20), 9))
        ),
    ),
}
FONTS: dict[str, tuple[str, Callable[[], bytes]]] = {
    "WOFF with 1.2 GB of zeros": ("a.woff", lambda: woff_of_zeros(1200 * 2**20)),
    "font cut off": ("a.ttf", lambda: plain_font()[:300]),
    "font of noise": ("a.ttf", lambda: b"\0\1\0\0" + np.random.default_rng(1).bytes(20_000)),
}
ARCHIVES: dict[str, tuple[str, Callable[[], bytes]]] = {
    "ZIP with broken bzip2": ("a.zip", lambda: broken_zip(zipfile.ZIP_BZIP2)),
    "ZIP with broken LZMA": ("a.zip", lambda: broken_zip(zipfile.ZIP_LZMA)),
    "ZIP with broken deflate": ("a.zip", lambda: broken_zip(zipfile.ZIP_DEFLATED)),
    "ZIP with broken offsets": ("a.zip", zip_offsets),
    "ZIP of a GB of zeros": ("a.zip", lambda: packed("recipe.json", bytes(2**30), zipfile.ZIP_DEFLATED)),
    "recipe of 100 000 brackets": ("a.json", lambda: b"[" * 100_000),
    "recipe of 100 000 braces": ("a.json", lambda: b'{"a":' * 100_000),
    "recipe with a number of 5000 digits": ("a.json", lambda: b'{"drelo": ' + b"9" * 5000 + b"}"),
}
MESHES: dict[str, tuple[str, Callable[[], bytes]]] = {
    "STL far out": ("a.stl", lambda: stl(np.random.default_rng(1).uniform(-3e38, 3e38, (50, 3, 3)))),
    "STL of NaN": ("a.stl", lambda: stl(np.full((4, 3, 3), np.nan))),
    "STL in one point": ("a.stl", lambda: stl(np.zeros((2000, 3, 3)))),
    "STL of one triangle 100 000 times": ("a.stl", lambda: stl(np.tile(np.eye(3), (100_000, 1, 1)))),
    "STL of crossing triangles": ("a.stl", lambda: stl(np.random.default_rng(1).uniform(0, 1, (4000, 3, 3)))),
    "3MF of 20 million vertices": ("a.3mf", lambda: threemf_vertices(20_000_000)),
    "3MF of nested components": ("a.3mf", lambda: threemf_components(200_000)),
}
