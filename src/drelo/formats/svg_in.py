"""SVG in: what is visible, as contours in mm."""

from __future__ import annotations

import io
import math
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any
from xml.etree import ElementTree
from xml.etree.ElementTree import ParseError

import numpy as np
import svgelements as se
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour
from drelo.core.outline.drawn import Drawn, Stroke
from drelo.core.outline.path_data import contours_of
from drelo.core.outline.tangle import refuse_tangled
from drelo.formats.svg_check import SVG_NAMESPACE, check_svg

MAX_SEGMENTS = 2_000_000
# Coordinates beyond this (mm) are no drawing.
MAX_COORDINATE = 1e6
PX_PER_INCH = 96.0
# Attributes of the marks that stand for paths while the rest of a drawing is read.
RUN_OF_MARK = "data-run"
MARK = "data-mark"
# A drawing that differs from its own numbers by less than this stands in mm.
AS_IT_IS = 1e-9
# Inches in a mm, as the library has it.
LIBRARY_INCH = 0.0393701
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
    check_svg(data)
    try:
        data, runs = _paths_apart(data)
        document = se.SVG.parse(io.BytesIO(data), ppi=PX_PER_INCH, reify=True)
    except (
        ParseError,
        ValueError,
        KeyError,
        IndexError,
        TypeError,
        ArithmeticError,
        AttributeError,
        RecursionError,
    ) as error:
        raise Refusal("svg.unreadable", "art.file", reason=str(error)) from None
    exact = _exact_mm(data)
    shapes: list[Drawn] = []
    left_out: dict[str, int] = {}
    segments = 0
    for element, paths in _in_order(document.elements(), runs):
        if isinstance(element, se.SVGText):
            left_out["text (turn it into outlines first)"] = left_out.get("text (turn it into outlines first)", 0) + 1
        elif isinstance(element, se.SVGImage):
            left_out["embedded picture"] = left_out.get("embedded picture", 0) + 1
        if not isinstance(element, se.Shape) or not _visible(element):
            continue
        if paths is not None:
            contours = _placed(paths, element, exact)
        else:
            contours = tuple(c.transformed(exact) for c in _unmarked(element))
        segments += sum(len(c) for c in contours)
        if segments > MAX_SEGMENTS:
            raise Refusal("svg.too-many-segments", "art.file", most=MAX_SEGMENTS)
        shapes += [_exact_stroke(shape, exact) for shape in _drawn(element, contours)]
    refuse_tangled((c for shape in shapes for c in shape.contours), "art.file")
    if not shapes:
        raise Refusal("svg.empty", "art.file")
    return SvgArt(tuple(shapes), tuple(f"Left out of the SVG: {count} × {kind}." for kind, count in left_out.items()))


def _exact_mm(data: bytes) -> float:
    """By what the drawing must grow to be exact: the library tells a metric size by a rounded inch."""
    root = ElementTree.fromstring(data)
    metric = re.fullmatch(r"\s*[\d.eE+-]+\s*(mm|cm)\s*", root.get("width", ""))
    return 1 / (25.4 * LIBRARY_INCH) if metric and root.get("viewBox") else 1.0


def _exact_stroke(shape: Drawn, factor: float) -> Drawn:
    if shape.stroke is None or factor == 1.0:
        return shape
    return replace(shape, stroke=replace(shape.stroke, width=shape.stroke.width * factor))


Run = list[tuple[str, list[Contour]]]
"""Paths that follow each other in one group: each one's mark, and what it holds."""


def _paths_apart(data: bytes) -> tuple[bytes, dict[str, Run]]:
    """The drawing with short marks in place of the paths that are read here, and these by the runs they stand in.

    A mark is drawn where the path would be: it has the path's style, and shows where its unit square comes to lie.
    Paths of one run that differ in nothing else share a mark.
    """
    root = ElementTree.fromstring(data)
    runs: dict[str, Run] = {}
    for parent in list(root.iter()):
        run: Run = []
        marks: dict[tuple[tuple[str, str], ...], str] = {}
        kept: list[ElementTree.Element] = []
        for element in parent:
            is_path = element.tag == f"{{{SVG_NAMESPACE}}}path" and not len(element)
            found = contours_of(element.get("d", "")) if is_path else None
            if not found:
                run, marks = [], {}
                kept.append(element)
                continue
            if not run:
                name = str(len(runs))
                runs[name] = run
            look = tuple((key, value) for key, value in element.items() if key != "d")
            if look not in marks:
                marks[look] = str(len(marks))
                element.set("d", "M0,0L1,0L0,1")
                element.set(RUN_OF_MARK, name)
                element.set(MARK, marks[look])
                kept.append(element)
            run.append((marks[look], found))
        if len(kept) < len(parent):
            parent[:] = kept
    return (ElementTree.tostring(root), runs) if runs else (data, runs)


def _in_order(elements: Iterable[Any], runs: dict[str, Run]) -> Iterator[tuple[Any, list[Contour] | None]]:
    """Elements in painting order; those that are marks once for each path they stand for, with that path."""
    marks: dict[str, Any] = {}
    current: str | None = None
    for element in elements:
        values = element.values if isinstance(element, se.Shape) else {}
        run, mark = values.get(RUN_OF_MARK), values.get(MARK)
        # A group that is used again brings the same run again.
        if run != current or mark in marks:
            yield from ((marks[m], paths) for m, paths in runs.get(str(current), []) if m in marks)
            marks, current = {}, run
        if run is None:
            yield element, None
        else:
            marks[str(mark)] = element
    yield from ((marks[m], paths) for m, paths in runs.get(str(current), []) if m in marks)


def _placed(paths: list[Contour], element: Any, exact: float) -> tuple[Contour, ...]:
    origin, right, down = (np.array([s.end.x, s.end.y]) * exact for s in list(element)[:3])
    turn = np.stack([right - origin, down - origin])
    if np.abs(turn * MM_PER_PX - np.eye(2)).max() < AS_IT_IS and np.abs(origin).max() < AS_IT_IS:
        # One user unit is one mm: every coordinate stays as it is written.
        turn, origin = np.eye(2) / MM_PER_PX, np.zeros(2)
    result = []
    for path in paths:
        curves = (path.curves @ turn + origin) * MM_PER_PX
        _check_coordinates(curves)
        result.append(Contour(curves, path.straight, path.closed))
    return tuple(result)


def _check_coordinates(curves: NDArray[np.float64]) -> None:
    if not np.isfinite(curves).all() or np.abs(curves).max() > MAX_COORDINATE:
        raise Refusal("svg.no-numbers", "art.file")


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
    if width > MAX_COORDINATE:
        raise Refusal("svg.stroke-too-wide", "art.file")
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


def _unmarked(element: Any) -> tuple[Contour, ...]:
    """The contours of a shape that the library reads."""
    try:
        return _contours(se.Path(*element.segments()))
    except (ValueError, TypeError, AttributeError, IndexError, ArithmeticError) as error:
        if isinstance(error, Refusal):
            raise
        raise Refusal("svg.undrawable", "art.file") from None


def _contours(path: Any) -> tuple[Contour, ...]:
    result = []
    for sub in path.as_subpaths():
        curves, straight, closed = _segments(sub)
        if not curves:
            continue
        array = np.array(curves, np.float64) * MM_PER_PX
        _check_coordinates(array)
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
