"""SVG in: what is visible, as contours in mm."""

from __future__ import annotations

import io
import math
import re
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any
from xml.etree.ElementTree import ParseError

import numpy as np
import svgelements as se

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour
from drelo.core.outline.drawn import Drawn, Stroke

MAX_BYTES = 24 * 2**20
MAX_SEGMENTS = 2_000_000
MAX_NESTING = 200
# Coordinates beyond this (mm) are no drawing.
MAX_COORDINATE = 1e6
PX_PER_INCH = 96.0
MM_PER_PX = 25.4 / PX_PER_INCH

_CAPS = {"butt": "flat", "round": "round", "square": "square"}
_JOINS = {"miter": "mitre", "round": "round", "bevel": "bevel"}


@dataclass(frozen=True, eq=False)
class SvgArt:
    """Shapes in painting order, mm, y down; and what could not be taken over."""

    shapes: tuple[Drawn, ...]
    remarks: tuple[str, ...]


def read_svg(data: bytes) -> SvgArt:
    """Filled and stroked shapes of an SVG.

    Raises Refusal when it is no SVG, hostile, or holds nothing visible.
    """
    _refuse_hostile(data)
    try:
        document = se.SVG.parse(io.BytesIO(data), ppi=PX_PER_INCH, reify=True)
    except (
        ParseError,
        ValueError,
        KeyError,
        IndexError,
        TypeError,
        ZeroDivisionError,
        RecursionError,
    ) as error:
        raise Refusal(
            f"The SVG cannot be read: {error}. Save it again from your drawing program.", "art.file"
        ) from None
    shapes: list[Drawn] = []
    left_out: dict[str, int] = {}
    segments = 0
    for element in document.elements():
        if isinstance(element, se.SVGText):
            left_out["text (turn it into outlines first)"] = left_out.get("text (turn it into outlines first)", 0) + 1
        elif isinstance(element, se.SVGImage):
            left_out["embedded picture"] = left_out.get("embedded picture", 0) + 1
        if not isinstance(element, se.Shape) or not _visible(element):
            continue
        contours = _contours(se.Path(*element.segments()))
        segments += sum(len(c) for c in contours)
        if segments > MAX_SEGMENTS:
            raise Refusal(f"The SVG has more than {MAX_SEGMENTS} segments. Simplify it.", "art.file")
        shapes += _drawn(element, contours)
    if not shapes:
        raise Refusal("The SVG holds no visible filled or stroked shape.", "art.file")
    return SvgArt(tuple(shapes), tuple(f"Left out of the SVG: {count} × {kind}." for kind, count in left_out.items()))


def _refuse_hostile(data: bytes) -> None:
    if len(data) > MAX_BYTES:
        raise Refusal(f"The SVG has more than {MAX_BYTES // 2**20} MB. Simplify it.", "art.file")
    if b"<svg" not in data:
        raise Refusal("This is not an SVG drawing.", "art.file")
    if re.search(rb"<!ENTITY", data, re.IGNORECASE):
        raise Refusal("The SVG declares entities, which are not read. Save it as plain SVG.", "art.file")
    depth = deepest = 0
    for match in re.finditer(rb"<(/?)(?:\w+:)?g\b[^>]*?(/?)>", data):
        depth += -1 if match[1] else (0 if match[2] else 1)
        deepest = max(deepest, depth)
    if deepest > MAX_NESTING:
        raise Refusal(
            f"The SVG nests its groups {deepest} deep; at most {MAX_NESTING} are read. Ungroup it.",
            "art.file",
        )


def _visible(element: Any) -> bool:
    values = element.values
    return (
        values.get("display") != "none"
        and values.get("visibility") not in ("hidden", "collapse")
        and str(values.get("opacity", "1")) not in ("0", "0.0")
    )


def _drawn(element: Any, contours: tuple[Contour, ...]) -> list[Drawn]:
    if not contours:
        return []
    values = element.values
    result = []
    fill = _colour(element.fill, values.get("fill"), default="#000000")
    encloses = any(len(c) > 1 or not c.straight.all() for c in contours)
    if fill and encloses and str(values.get("fill-opacity", "1")) not in ("0", "0.0"):
        result.append(Drawn(contours, fill, values.get("fill-rule") == "evenodd"))
    stroke = _colour(element.stroke, values.get("stroke"), default="")
    width = float(element.implicit_stroke_width or 0) * MM_PER_PX if stroke else 0.0
    if width > 0 and math.isfinite(width):
        cap = _CAPS.get(str(values.get("stroke-linecap", "butt")), "flat")
        join = _JOINS.get(str(values.get("stroke-linejoin", "miter")), "mitre")
        result.append(Drawn(contours, stroke, stroke=Stroke(width, cap, join)))  # type: ignore[arg-type]
    return result


def _colour(colour: Any, stated: object, default: str) -> str:
    if colour is not None and colour.value is not None:
        return f"#{colour.red:02x}{colour.green:02x}{colour.blue:02x}" if colour.alpha else ""
    text = str(stated or "").strip().lower()
    if text.startswith("url("):
        # A gradient or pattern paints its area all the same.
        return "#808080"
    return default if stated is None else ""


def _contours(path: Any) -> tuple[Contour, ...]:
    result = []
    for sub in path.as_subpaths():
        curves, straight, closed = _segments(sub)
        if not curves:
            continue
        array = np.array(curves, np.float64) * MM_PER_PX
        if not np.isfinite(array).all() or np.abs(array).max() > MAX_COORDINATE:
            raise Refusal("The SVG holds coordinates that are not numbers, or far too large.", "art.file")
        result.append(Contour(array, np.array(straight, bool), closed))
    return tuple(result)


def _segments(sub: Iterable[Any]) -> tuple[list[list[tuple[float, float]]], list[bool], bool]:
    curves: list[list[tuple[float, float]]] = []
    straight: list[bool] = []
    closed = False
    for segment in sub:
        if isinstance(segment, se.Move):
            continue
        if isinstance(segment, se.Close):
            closed = True
        if isinstance(segment, se.Arc):
            parts = list(segment.as_cubic_curves())
        elif isinstance(segment, se.QuadraticBezier):
            a, c, b = segment.start, segment.control, segment.end
            parts = [se.CubicBezier(a, a + (c - a) * (2 / 3), b + (c - b) * (2 / 3), b)]
        else:
            parts = [segment]
        for part in parts:
            a, b = part.start, part.end
            if a is None or b is None:
                continue
            is_line = not isinstance(part, se.CubicBezier)
            if is_line and a == b:
                continue
            if is_line:
                p, q = a + (b - a) * (1 / 3), a + (b - a) * (2 / 3)
            else:
                p, q = part.control1, part.control2
            curves.append([(a.x, a.y), (p.x, p.y), (q.x, q.y), (b.x, b.y)])
            straight.append(is_line)
    return curves, straight, closed
