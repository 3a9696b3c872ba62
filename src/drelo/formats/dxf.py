"""DXF out: R2010, mm, closed polylines within a tolerance, or splines; a layer for each group."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from ezdxf import colors, units
from ezdxf.filemanagement import new

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour

Curves = Literal["polyline", "spline"]
MAX_NAME = 60


@dataclass(frozen=True, eq=False)
class Layer:
    """Contours of one group, mm, y down; its name and #rrggbb."""

    name: str
    colour: str
    contours: Sequence[Contour]


def write_dxf(layers: Sequence[Layer], curves: Curves = "polyline", tolerance: float = 0.01, told: str = "") -> bytes:
    """A DXF drawing, y up. told: what the file says of itself.

    Raises Refusal when its own library finds errors in it.
    """
    document: Any = new("R2010", setup=False)
    document.units = units.MM
    document.header["$MEASUREMENT"] = 1
    if told:
        document.header.custom_vars.append("Source", told)
    space = document.modelspace()
    used: set[str] = set()
    for layer in layers:
        name = _layer_name(layer.name, used)
        red, green, blue = (int(layer.colour[i : i + 2], 16) for i in (1, 3, 5))
        document.layers.add(name, true_color=colors.rgb2int((red, green, blue)))
        for contour in layer.contours:
            if len(contour):
                _write(space, contour, name, curves, tolerance)
    auditor = document.audit()
    if auditor.has_errors:
        raise Refusal("dxf.unsound", problem=auditor.errors[0].message)
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode("utf-8")


def _write(space: Any, contour: Contour, layer: str, curves: Curves, tolerance: float) -> None:
    flip = np.array([1.0, -1.0])
    if curves == "polyline" or bool(contour.straight.all()):
        points = contour.flattened(tolerance) * flip
        space.add_lwpolyline(points.tolist(), close=contour.closed, dxfattribs={"layer": layer})
        return
    # Cubics end to end are a B-spline of degree three whose inner knots are threefold.
    p = contour.curves * flip
    points = np.concatenate([p[:1, 0], p[:, 1:].reshape(-1, 2)])
    knots = [0.0] * 4 + [float(k) for k in range(1, len(p)) for _ in range(3)] + [float(len(p))] * 4
    spline = space.add_open_spline([(x, y, 0.0) for x, y in points.tolist()], degree=3, knots=knots)
    spline.dxf.layer = layer


def _layer_name(text: str, used: set[str]) -> str:
    plain = re.sub(r"[^\w \-]+", " ", text, flags=re.UNICODE).strip()[:MAX_NAME] or "outlines"
    name, number = plain, 1
    while name.lower() in used or name == "0":
        number += 1
        name = f"{plain} {number}"
    used.add(name.lower())
    return name
