"""DXF in and out, and vector drawings on their way to the sheet."""

from __future__ import annotations

import io
import re
from typing import Any

import ezdxf
import numpy as np
import pytest
from ezdxf import recover

from drelo.core.errors import Refusal
from drelo.core.lettering.fonts import font_of
from drelo.core.lettering.layout import Setting, letters
from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline
from drelo.core.outline.primitives import ellipse, rectangle, ring
from drelo.formats.drawing_in import read_drawing
from drelo.formats.dxf import Layer, write_dxf
from drelo.formats.dxf_in import read_dxf
from drelo.formats.fonts import shipped_font
from drelo.formats.png_out import write_png
from drelo.formats.svg import Drawing, write_svg
from tests.refusals import refused


def packed(draw: Any, units: int = 4) -> bytes:
    document: Any = ezdxf.new("R2010")  # type: ignore[attr-defined]
    document.header["$INSUNITS"] = units
    draw(document)
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode()


def words() -> list[Contour]:
    return [c for o in letters("Plot", font_of(shipped_font("slab")), Setting(height=9)) for c in o.contours]


@pytest.mark.parametrize("curves", ["polyline", "spline"])
def test_what_goes_out_comes_in_again(curves: str) -> None:
    contours = [*words(), *ring(60, 50)]
    data = write_dxf([Layer("words", "#c8553d", contours[:-2]), Layer("ring", "#000000", contours[-2:])], curves, 0.005)  # type: ignore[arg-type]
    document, auditor = recover.read(io.BytesIO(data))
    assert not auditor.has_errors
    assert document.dxfversion == "AC1024"
    back = read_dxf(data)
    assert len(back.lines) == len(contours)
    assert all(line.contour.closed for line in back.lines)
    assert back.size == pytest.approx((60, 60), abs=0.01)
    assert {line.layer for line in back.lines} == {"words", "ring"}
    assert {line.colour for line in back.lines} == {"#c8553d", "#000000"}
    wanted = sorted(abs(c.area) for c in contours)
    tolerance = 1e-6 if curves == "spline" else 0.8
    assert sorted(abs(line.contour.area) for line in back.lines) == pytest.approx(wanted, abs=tolerance)


def test_lines_and_arcs_are_joined_into_loops() -> None:
    def draw(document: Any) -> None:
        space = document.modelspace()
        space.add_line((10, 0), (30, 0))
        space.add_line((30, 20), (30.004, 0))
        space.add_arc((10, 10), 10, 90, 270)
        space.add_line((10, 20), (30, 20))
        space.add_line((50, 0), (60, 0))

    art = read_dxf(packed(draw))
    loops = [line for line in art.lines if line.contour.closed]
    assert len(loops) == 1
    assert abs(loops[0].contour.area) == pytest.approx(400 + np.pi * 50, rel=1e-3)
    assert len(art.lines) == 2


def test_gaps_are_told_of_and_closed_by_a_wider_tolerance() -> None:
    def draw(document: Any) -> None:
        space = document.modelspace()
        for a, b in (((0, 0), (10, 0)), ((10.3, 0), (10, 10)), ((10, 10), (0, 10)), ((0, 10), (0, 0))):
            space.add_line(a, b)

    data = packed(draw)
    art = read_dxf(data)
    assert any("nearly meet" in r and "0.300" in r for r in art.remarks)
    assert not any(line.contour.closed for line in art.lines)
    assert all(line.contour.closed for line in read_dxf(data, join=0.5).lines)


def test_every_kind_of_curve_and_blocks_come_in() -> None:
    def draw(document: Any) -> None:
        space = document.modelspace()
        space.add_circle((0, 0), 5)
        space.add_ellipse((30, 0), (8, 0), 0.5)
        space.add_lwpolyline([(50, 0, 0, 0, 1), (60, 0, 0, 0, 1)], format="xyseb", close=True)
        space.add_polyline2d([(70, 0), (80, 0), (80, 8)], close=True)
        space.add_spline([(90, 0), (100, 0), (100, 10), (90, 10), (90, 0)])
        block = document.blocks.new("twice")
        block.add_circle((0, 0), 2)
        space.add_blockref("twice", (0, 30), dxfattribs={"xscale": 2, "yscale": 2, "zscale": 2})
        space.add_text("words")

    art = read_dxf(packed(draw))
    areas = sorted(abs(line.contour.area) for line in art.lines)
    assert len(art.lines) == 6
    assert all(line.contour.closed for line in art.lines)
    for wanted in (25 * np.pi, 32 * np.pi, 40, 16 * np.pi):
        assert min(abs(a - wanted) for a in areas) < 0.1
    assert any("1 × text" in r for r in art.remarks)


@pytest.mark.parametrize(
    ("code", "unit", "factor"), [(4, None, 1), (1, None, 25.4), (5, None, 10), (0, None, 1), (1, "mm", 1)]
)
def test_units_are_heeded_or_overridden(code: int, unit: str | None, factor: float) -> None:
    art = read_dxf(packed(lambda d: d.modelspace().add_circle((5, 5), 1), code), unit)
    assert art.size == pytest.approx((2 * factor, 2 * factor), rel=1e-3)


@pytest.mark.parametrize("value", ["1\nB", "40\n1e400", "70\n9999999", "70\n-3"])
def test_units_that_are_none_are_taken_for_mm(value: str) -> None:
    data = packed(lambda d: d.modelspace().add_circle((5, 5), 1)).decode()
    spoilt = re.sub(r"(\$INSUNITS\r?\n) *70\r?\n *4", rf"\g<1>{value}", data)
    assert spoilt != data
    art = read_dxf(spoilt.encode())
    assert art.size == pytest.approx((2, 2), rel=1e-3)


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"not a drawing",
        b"0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n",
        b"0\nSECTION\n2\nENTITIES\n0\nCIRCLE\n10\nx\n",
    ],
)
def test_what_is_no_dxf_is_refused(data: bytes) -> None:
    with pytest.raises(Refusal):
        read_dxf(data)


def test_numbers_out_of_all_bounds_are_left_out_with_a_remark() -> None:
    def draw(document: Any) -> None:
        document.modelspace().add_circle((0, 0), 5)
        document.modelspace().add_line((0, 0), (1e12, 0))

    art = read_dxf(packed(draw))
    assert len(art.lines) == 1
    assert any("endless line" in r for r in art.remarks)


def test_an_svg_goes_out_and_comes_in_equal() -> None:
    outer, inner = ring(40, 20)
    shapes = [Outline(outer, (inner,)).transformed(1, 20, 20), Outline(rectangle(10, 6, 1)).transformed(1, 60, 20)]
    drawing = read_drawing(write_svg([Drawing(shapes, "#1d3557", "parts")], 65, 40), "parts.svg")
    assert (drawing.width, drawing.height) == pytest.approx((65, 40), abs=1e-3)
    assert [len(t.contours) for t in drawing.things] == [2, 1]
    wanted = sum(abs(c.area) for o in shapes for c in o.contours)
    assert sum(abs(c.area) for t in drawing.things for c in t.contours) == pytest.approx(wanted, rel=1e-3)
    assert {t.colour for t in drawing.things} == {"#1d3557"}


def test_nothing_of_a_hostile_svg_comes_through() -> None:
    hostile = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="10mm" height="10mm" viewBox="0 0 10 10">'
        b'<script>alert(1)</script><image href="http://example.org/x.png" width="5" height="5"/>'
        b'<rect width="4" height="4" onload="alert(2)"/></svg>'
    )
    drawing = read_drawing(hostile, "x.svg")
    assert (drawing.width, drawing.height) == pytest.approx((4, 4))
    assert any("picture" in r for r in drawing.remarks)


def test_a_png_has_its_resolution_and_covers_what_it_should() -> None:
    import cv2

    disc = Outline(ellipse(20, 20)).transformed(1, 10, 10)
    data = write_png([(disc, "#c8553d")], 20, 20, 254)
    image = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    assert image.shape == (200, 200, 4)
    assert image[100, 100].tolist() == [0x3D, 0x55, 0xC8, 255]
    assert image[2, 2, 3] == 0
    assert image[..., 3].sum() / 255 == pytest.approx(np.pi * 100**2, rel=2e-3)
    with refused("resolution"):
        write_png([(disc, "#c8553d")], 2000, 2000, 2400)
