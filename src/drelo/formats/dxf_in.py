"""DXF in: lines and curves in mm, joined into closed loops where their ends meet."""

from __future__ import annotations

import io
import math
import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from ezdxf import colors, path, recover, units
from ezdxf.disassemble import recursive_decompose
from ezdxf.enums import InsertUnits
from ezdxf.lldxf.const import DXFError

from drelo.core.errors import Refusal
from drelo.core.near import points_tree
from drelo.core.outline.contour import Contour
from drelo.core.outline.tangle import refuse_tangled

MAX_BYTES = 32 * 2**20
# To read more takes minutes.
MAX_ENTITIES = 200_000
# Where an entity, one of its vertices, or something of a table begins.
_BEGINS = re.compile(rb"^[ \t]*0[ \t]*\r?\n[ \t]*[A-Z]", re.MULTILINE)
# Entities that blocks bring, those of a block counted each time: to place one takes as long as to read several.
MAX_INSERTED = 100_000
# So many blocks may lie in each other.
MAX_BLOCKS = 100
MAX_SEGMENTS = 2_000_000
# Coordinates beyond this (mm) are no drawing.
MAX_COORDINATE = 1e6
# Ends nearer to each other than this (mm) meet.
JOIN = 0.01
# Gaps up to this (mm) are told of.
NEAR = 2.0
INK = "#000000"
MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "inch": 25.4, "foot": 304.8}
_TAKEN = {"LINE", "ARC", "CIRCLE", "ELLIPSE", "LWPOLYLINE", "POLYLINE", "SPLINE", "HELIX"}
# What says something about a drawing and is none.
_SILENT = {"VIEWPORT", "ATTDEF", "SEQEND"}


@dataclass(frozen=True, eq=False)
class DxfLine:
    """A line or closed loop in mm, y down, with the colour and layer of its first entity."""

    contour: Contour
    colour: str
    layer: str


@dataclass(frozen=True, eq=False)
class DxfArt:
    """lines: loops and open lines, the lower left corner of all at 0, 0. unit: what the file is drawn in.

    remarks: what could not be taken over, and ends that nearly meet.
    """

    lines: tuple[DxfLine, ...]
    unit: str
    remarks: tuple[str, ...]

    @property
    def size(self) -> tuple[float, float]:
        """Width and height, mm."""
        boxes = np.array([line.contour.bounds for line in self.lines])
        extent = boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0)
        return float(extent[0]), float(extent[1])


def read_dxf(data: bytes, unit: str | None = None, join: float = JOIN, to_zero: bool = True) -> DxfArt:
    """Lines, arcs, circles, ellipses, polylines with bulges, splines, and blocks, as loops and open lines.

    unit: mm, cm, m, inch or foot in the place of what the file says. join: ends nearer than this, mm, meet.
    to_zero: the drawing's lower left corner goes to 0, 0.

    Raises Refusal when it is no DXF or holds nothing to take.
    """
    if len(data) > MAX_BYTES:
        raise Refusal("dxf.too-large", "art.file", megabytes=MAX_BYTES // 2**20)
    if sum(1 for _ in _BEGINS.finditer(data)) > MAX_ENTITIES:
        raise Refusal("dxf.too-many-entities", "art.file", most=MAX_ENTITIES)
    if unit is not None and unit not in MM:
        raise Refusal("dxf.unit", "unit", units=tuple(MM))
    try:
        document, _ = recover.read(io.BytesIO(data))
    except (OSError, ValueError, LookupError, TypeError, AttributeError, ArithmeticError, RecursionError, DXFError):
        raise Refusal("dxf.unreadable", "art.file") from None
    _check_blocks(document)
    factor, named = _factor(document, unit)
    left_out: Counter[str] = Counter()
    try:
        pieces = list(_pieces(document, factor, left_out))
    except Refusal:
        raise
    except (ValueError, LookupError, TypeError, AttributeError, ArithmeticError, DXFError):
        raise Refusal("dxf.unplaceable-block", "art.file") from None
    if not pieces:
        raise Refusal("dxf.empty", "art.file")
    refuse_tangled((p.contour for p in pieces), "art.file")
    lines, gaps = _joined(pieces, join)
    if to_zero:
        boxes = np.array([line.contour.bounds for line in lines])
        x, y = boxes[:, 0].min(), boxes[:, 3].max()
        lines = [DxfLine(line.contour.transformed(1, -x, -y), line.colour, line.layer) for line in lines]
    remarks = [f"Left out of the DXF: {count} × {kind}." for kind, count in sorted(left_out.items())]
    if gaps:
        remarks.append(
            f"{len(gaps)} ends nearly meet; the widest gap is {max(gaps):.3f} mm. Raise the tolerance to join them."
        )
    return DxfArt(tuple(lines), named, tuple(remarks))


def _check_blocks(document: Any) -> None:
    """Raises Refusal when what blocks insert goes round in a ring, or comes to more entities than are taken."""
    counted: dict[str, int] = {}

    def count(name: str, layout: Any, depth: int) -> int:
        if name in counted:
            return counted[name]
        if depth > MAX_BLOCKS:
            raise Refusal("dxf.blocks-in-a-ring", "art.file", most=MAX_BLOCKS)
        total = len(layout)
        for entity in layout.query("INSERT"):
            inner = str(entity.dxf.name)
            if inner in document.blocks:
                many = max(1, int(entity.dxf.row_count)) * max(1, int(entity.dxf.column_count))
                total += many * count(inner, document.blocks.get(inner), depth + 1)
        if total - len(layout) > MAX_INSERTED:
            raise Refusal("dxf.blocks-too-many", "art.file", most=MAX_INSERTED)
        counted[name] = total
        return total

    count("", document.modelspace(), 0)


def _factor(document: Any, unit: str | None) -> tuple[float, str]:
    """mm a drawing unit, and the unit's name."""
    if unit is not None:
        return MM[unit], unit
    try:
        code = int(document.header.get("$INSUNITS", 0) or 0)
        if code == 0:
            return 1.0, "mm (not stated)"
        return float(units.conversion_factor(InsertUnits(code), InsertUnits.Millimeters)), units.unit_name(code).lower()
    except (KeyError, ValueError, IndexError, TypeError, OverflowError):
        return 1.0, "mm (not stated)"


def _pieces(document: Any, factor: float, left_out: Counter[str]) -> Iterator[DxfLine]:
    segments = 0
    for number, entity in enumerate(recursive_decompose(document.modelspace())):
        if number > MAX_ENTITIES:
            raise Refusal("dxf.too-many-entities", "art.file", most=MAX_ENTITIES)
        kind = entity.dxftype()
        if kind not in _TAKEN:
            if kind not in _SILENT:
                left_out[kind.lower()] += 1
            continue
        try:
            found = path.make_path(entity)
            parts = [_contour(sub, factor) for sub in found.sub_paths()]
        except (TypeError, ValueError, AttributeError, LookupError, ArithmeticError, DXFError):
            left_out[f"broken {kind.lower()}"] += 1
            continue
        colour, layer = _colour(entity, document), str(entity.dxf.layer)
        for contour in parts:
            if contour is None:
                left_out[f"empty or endless {kind.lower()}"] += 1
                continue
            segments += len(contour)
            if segments > MAX_SEGMENTS:
                raise Refusal("dxf.too-many-segments", "art.file", most=MAX_SEGMENTS)
            yield DxfLine(contour, colour, layer)


def _contour(found: Any, factor: float) -> Contour | None:
    """Cubics of a path, mm, y down; None when it has no extent or is out of all bounds."""
    curves, straight = [], []
    at = found.start
    for command in found.commands():
        end = command.end
        kind = len(command)
        if kind == 1:
            if end.isclose(at):
                continue
            one, two = at + (end - at) / 3, end - (end - at) / 3
        elif kind == 2:
            one, two = at + (command.ctrl - at) * 2 / 3, end + (command.ctrl - end) * 2 / 3
        else:
            one, two = command.ctrl1, command.ctrl2
        curves.append([(at.x, at.y), (one.x, one.y), (two.x, two.y), (end.x, end.y)])
        straight.append(kind == 1)
        at = end
    if not curves:
        return None
    array = np.array(curves, np.float64) * np.array([factor, -factor])
    if not np.isfinite(array).all() or np.abs(array).max() > MAX_COORDINATE:
        return None
    closed = bool(found.is_closed) and len(curves) > 1
    if closed:
        array[-1, 3] = array[0, 0]
    return Contour(array, np.array(straight, bool), closed)


def _colour(entity: Any, document: Any) -> str:
    """#rrggbb of an entity, its own or its layer's; what is white on a dark screen counts as ink."""
    true = entity.dxf.get("true_color")
    if true is not None:
        return "#{:02x}{:02x}{:02x}".format(*colors.int2rgb(true))
    index = entity.dxf.get("color", 256)
    if index in (0, 256):
        layer = document.layers.get(entity.dxf.layer) if document.layers.has_entry(entity.dxf.layer) else None
        if layer is not None and layer.dxf.hasattr("true_color"):
            return "#{:02x}{:02x}{:02x}".format(*colors.int2rgb(layer.dxf.true_color))
        index = abs(layer.dxf.color) if layer is not None else 7
    if index == 7 or not 1 <= index <= 255:
        return INK
    return "#{:02x}{:02x}{:02x}".format(*colors.aci2rgb(index))


def _joined(pieces: list[DxfLine], join: float) -> tuple[list[DxfLine], list[float]]:
    """Open pieces strung together end to end; and the gaps that are too wide for that but look meant."""
    done = [p for p in pieces if p.contour.closed]
    rest = [p for p in pieces if not p.contour.closed]
    if not rest:
        return done, []
    ends = np.array([end for p in rest for end in (p.contour.curves[0, 0], p.contour.curves[-1, 3])])
    partner = _partners(ends, join)
    used = [False] * len(rest)
    opens: list[int] = []
    # Chains with a loose end first, then the rings.
    for begin in [e for e in range(len(ends)) if partner[e] < 0] + list(range(len(ends))):
        if used[begin // 2]:
            continue
        chain, at = [], begin
        while not used[at // 2]:
            used[at // 2] = True
            piece = rest[at // 2].contour
            chain.append(piece if at % 2 == 0 else piece.reversed())
            out = at ^ 1
            nxt = int(partner[out])
            if nxt < 0:
                break
            at = nxt
        first, last = chain[0].curves[0, 0], chain[-1].curves[-1, 3]
        closes = float(np.hypot(*(last - first))) <= join and (len(chain) > 1 or len(chain[0]) > 1)
        done.append(DxfLine(_string(chain, closes), rest[begin // 2].colour, rest[begin // 2].layer))
        if not closes:
            opens += [begin]
    gaps = []
    loose = np.array([e for line in done if not line.contour.closed for e in _ends(line.contour)])
    if len(loose) > 1:
        near = points_tree(loose).nearest_other()
        gaps = sorted({round(float(g), 6) for g in near if join < g <= NEAR})
    return done, gaps


def _ends(contour: Contour) -> tuple[Any, Any]:
    return contour.curves[0, 0], contour.curves[-1, 3]


def _partners(ends: Any, join: float) -> Any:
    """For each end the one that it meets, or -1; the nearest pairs first, each end once."""
    pairs = points_tree(ends).pairs(join)
    partner = np.full(len(ends), -1)
    if len(pairs):
        length = np.hypot(*(ends[pairs[:, 0]] - ends[pairs[:, 1]]).T)
        for a, b in pairs[np.lexsort((pairs[:, 1], pairs[:, 0], length))].tolist():
            if partner[a] < 0 and partner[b] < 0 and a // 2 != b // 2:
                partner[a], partner[b] = b, a
    return partner


def _string(chain: list[Contour], closed: bool) -> Contour:
    curves = np.concatenate([c.curves for c in chain]).copy()
    straight = np.concatenate([c.straight for c in chain])
    for i in range(1, len(curves)):
        shift = curves[i - 1, 3] - curves[i, 0]
        if shift.any():
            curves[i, 0] += shift
            curves[i, 1] += shift
    if closed:
        shift = curves[0, 0] - curves[-1, 3]
        curves[-1, 3] += shift
        curves[-1, 2] += shift
    third = (curves[:, 3] - curves[:, 0]) / 3
    curves[straight, 1] = (curves[:, 0] + third)[straight]
    curves[straight, 2] = (curves[:, 3] - third)[straight]
    if not math.isfinite(float(curves.sum())):
        raise Refusal("dxf.no-numbers", "art.file")
    return Contour(curves, straight, closed)
