"""SVG in and out: what drawing programs write, and what Drelo writes for them."""

import math
import xml.etree.ElementTree as ET

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.outline.contour import Contour, polygon
from drelo.core.outline.drawn import non_zero
from drelo.core.outline.outline import Outline, bounds, even_odd
from drelo.core.trace.trace import Line
from drelo.formats.drawing_in import Reading, read_drawing
from drelo.formats.svg import Drawing, write_svg
from drelo.formats.svg_in import read_svg

SVG = "{http://www.w3.org/2000/svg}"


def document(body: str, size: str = 'width="100mm" height="80mm" viewBox="0 0 100 80"') -> bytes:
    names = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f"<svg {names} {size}>{body}</svg>".encode()


def areas(body: str, **kwargs) -> list[shapely.Geometry]:
    return [s.flattened(0.001) for s in read_svg(document(body, **kwargs)).shapes]


# In


@pytest.mark.parametrize(
    ("size", "factor"),
    [
        ('width="100mm" height="80mm" viewBox="0 0 100 80"', 1.0),
        ('width="10cm" height="8cm" viewBox="0 0 100 80"', 1.0),
        ('width="2in" height="1.6in" viewBox="0 0 100 80"', 50.8 / 100),
        ('width="200mm" height="160mm" viewBox="0 0 100 80"', 2.0),
        ('width="100" height="80"', 25.4 / 96),
    ],
)
def test_units_and_view_boxes_give_the_true_size(size, factor):
    (square,) = areas('<rect x="10" y="10" width="30" height="20"/>', size=size)
    assert square.area == pytest.approx(600 * factor**2, rel=1e-5)


@pytest.mark.parametrize(
    ("transform", "area", "box"),
    [
        ("translate(5 6)", 200, (15, 16, 35, 26)),
        ("scale(2)", 800, (20, 20, 60, 40)),
        ("rotate(90 20 15)", 200, (15, 5, 25, 25)),
        ("translate(10 0) scale(0.5 2)", 200, (15, 20, 25, 40)),
        ("matrix(1 0 0 -1 0 60)", 200, (10, 40, 30, 50)),
        ("skewX(45)", 200, (20, 10, 50, 20)),
    ],
)
def test_transforms_move_shapes(transform, area, box):
    (shape,) = areas(f'<g transform="{transform}"><rect x="10" y="10" width="20" height="10"/></g>')
    assert shape.area == pytest.approx(area, rel=1e-5)
    assert shape.bounds == pytest.approx(box, abs=1e-3)


def test_transforms_nest():
    (shape,) = areas('<g transform="translate(10 0)"><g transform="scale(2)"><rect width="5" height="5"/></g></g>')
    assert shape.bounds == pytest.approx((10, 0, 20, 10), abs=1e-3)


@pytest.mark.parametrize(
    ("body", "area"),
    [
        ('<circle cx="40" cy="40" r="20"/>', np.pi * 400),
        ('<ellipse cx="40" cy="40" rx="20" ry="10"/>', np.pi * 200),
        ('<polygon points="0,0 20,0 20,20"/>', 200),
        ('<polyline points="0,0 20,0 20,20"/>', 200),
        ('<rect width="20" height="10" rx="5"/>', 200 - (4 - np.pi) * 25),
        ('<path d="M10 10h20v20h-20z"/>', 400),
        ('<path d="m10 10 20 0 0 20 -20 0z"/>', 400),
        ('<path d="M20 40A20 20 0 0 1 60 40Z"/>', np.pi * 200),
        ('<path d="M0 0Q20 40 40 0Z"/>', 40 * 20 * 2 / 3),
        ('<path d="M0 0C0 20 40 20 40 0Z"/>', 40 * 20 * 0.6),
        ('<path d="M0 0C0 20 20 20 20 0S40 -20 40 0Z"/>', None),
        ('<path d="M0 0Q10 20 20 0T40 0Z"/>', None),
    ],
)
def test_basic_shapes_and_path_commands(body, area):
    (shape,) = areas(body)
    assert shape.is_valid
    if area is not None:
        assert shape.area == pytest.approx(area, rel=2e-3)
    else:
        assert shape.area > 0


@pytest.mark.parametrize(("rule", "area"), [("nonzero", 400), ("evenodd", 300)])
def test_fill_rules_decide_what_is_inside(rule, area):
    body = f'<path fill-rule="{rule}" d="M0 0H20V20H0ZM5 5H15V15H5Z"/>'
    (shape,) = areas(body)
    assert shape.area == pytest.approx(area, rel=1e-5)


@pytest.mark.parametrize(("cap", "length"), [("butt", 40), ("square", 44), ("round", 40 + np.pi)])
def test_strokes_have_width_and_ends(cap, length):
    (shape,) = areas(f'<path d="M10 10H50" fill="none" stroke="#123456" stroke-width="4" stroke-linecap="{cap}"/>')
    assert shape.area == pytest.approx(length * 4, rel=5e-3)


def test_use_places_a_shape_again():
    body = '<defs><rect id="r" width="10" height="10"/></defs><use href="#r" x="5"/><use xlink:href="#r" y="30"/>'
    boxes = sorted(a.bounds for a in areas(body))
    assert boxes == [pytest.approx((0, 30, 10, 40), abs=1e-3), pytest.approx((5, 0, 15, 10), abs=1e-3)]


@pytest.mark.parametrize(
    ("attribute", "colour"),
    [
        ('fill="#C8553D"', "#c8553d"),
        ('fill="#abc"', "#aabbcc"),
        ('fill="rgb(200, 85, 61)"', "#c8553d"),
        ('fill="teal"', "#008080"),
        ('style="fill:#1d3557"', "#1d3557"),
        ("", "#000000"),
    ],
)
def test_colours_in_every_way_they_are_written(attribute, colour):
    (shape,) = read_svg(document(f'<rect width="5" height="5" {attribute}/>')).shapes
    assert shape.colour == colour


def test_painting_order_is_kept():
    body = "".join(f'<rect width="5" height="5" fill="#00000{k}"/>' for k in range(1, 6))
    assert [s.colour for s in read_svg(document(body)).shapes] == [f"#00000{k}" for k in range(1, 6)]


# Out


def ring(cx: float, cy: float, r: float) -> Contour:
    angle = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    return polygon(np.column_stack([cx + r * np.cos(angle), cy + r * np.sin(angle)]))


def test_drawings_are_written_by_colour_and_name():
    drawings = [
        Drawing([Outline(ring(20, 20, 10), (ring(20, 20, 4).reversed(),))], "#c8553d", "petals"),
        Drawing([Outline(ring(60, 20, 5)), Outline(ring(60, 50, 5))], "#1d3557", 'a "b" <c>'),
    ]
    data = write_svg(drawings, 100, 80)
    root = ET.fromstring(data)
    groups = root.findall(f"{SVG}g")
    assert [g.get("id") for g in groups] == ["petals", 'a "b" <c>']
    assert [len(g.findall(f"{SVG}path")) for g in groups] == [1, 2]
    read = read_svg(data).shapes
    assert [s.colour for s in read] == ["#c8553d", "#1d3557", "#1d3557"]
    assert read[0].flattened(0.001).area == pytest.approx(drawings[0].outlines[0].area, rel=1e-4)


@pytest.mark.parametrize(("cap", "join"), [("flat", "mitre"), ("round", "round"), ("square", "bevel")])
def test_lines_are_written_unfilled_and_read_back(cap, join):
    p = np.array([[10, 10], [50, 10], [50, 40.0]])
    step = np.diff(p, axis=0) / 3
    contour = Contour(np.stack([p[:-1], p[:-1] + step, p[1:] - step, p[1:]], 1), np.ones(2, bool), False)
    data = write_svg([], 100, 80, [Line(contour, 3.5, cap, join)])
    (shape,) = read_svg(data).shapes
    assert shape.stroke is not None
    assert (shape.stroke.cap, shape.stroke.join) == (cap, join)
    assert shape.stroke.width == pytest.approx(3.5, rel=1e-5)
    assert not shape.contours[0].closed


@given(st.lists(st.tuples(st.floats(-500, 500), st.floats(-500, 500)), min_size=3, max_size=12))
def test_coordinates_come_back_to_a_ten_thousandth(points):
    contour = polygon(np.array(points))
    data = write_svg([Drawing([Outline(contour)])], 100, 80)
    path = ET.fromstring(data).find(f".//{SVG}path").get("d")
    numbers = [float(v) for v in path.replace("M", " ").replace("L", " ").replace("Z", "").split()]
    assert np.abs(np.array(numbers).reshape(-1, 2) - contour.curves[: len(numbers) // 2, 0]).max() <= 5.1e-5


# Contours


@given(st.integers(0, 2**31 - 1))
def test_a_contour_run_backward_is_the_same_place(seed):
    curves = np.random.default_rng(seed).uniform(0, 50, (4, 4, 2))
    curves[:, 3] = np.roll(curves[:, 0], -1, axis=0)
    contour = Contour(curves, np.zeros(4, bool))
    back = contour.reversed()
    assert back.area == pytest.approx(-contour.area)
    assert back.bounds == pytest.approx(contour.bounds)
    one, other = (c.flattened(0.05) for c in (contour, back))
    assert shapely.LinearRing(one).hausdorff_distance(shapely.LinearRing(other)) < 0.2
    assert np.array_equal(back.reversed().curves, contour.curves)


@given(st.integers(0, 2**31 - 1), st.floats(0.01, 100), st.floats(-50, 50), st.floats(-50, 50))
def test_scaling_goes_with_the_square_of_the_area(seed, scale, dx, dy):
    curves = np.random.default_rng(seed).uniform(0, 50, (3, 4, 2))
    curves[:, 3] = np.roll(curves[:, 0], -1, axis=0)
    contour = Contour(curves, np.zeros(3, bool))
    moved = contour.transformed(scale, dx, dy)
    assert moved.area == pytest.approx(contour.area * scale**2, rel=1e-6, abs=1e-6 * scale**2 + 1e-9)
    assert contour.transformed(scale, flip_y=True).area == pytest.approx(-contour.area * scale**2, rel=1e-6, abs=1e-6)


def test_both_rules_agree_on_simple_rings():
    square, hole = np.array([[0, 0], [10, 0], [10, 10], [0, 10.0]]), np.array([[2, 2], [2, 8], [8, 8], [8, 2.0]])
    assert even_odd([square, hole]).area == pytest.approx(64)
    assert non_zero([square, hole]).area == pytest.approx(64)
    assert non_zero([square, hole[::-1]]).area == pytest.approx(100)
    assert even_odd([]).is_empty
    assert non_zero([]).is_empty


def test_the_box_of_nothing_is_none():
    assert bounds([]) is None
    assert bounds([Outline(ring(10, 10, 5)), Outline(ring(30, 10, 5))]) == pytest.approx((5, 5, 35, 15), abs=0.02)


STROKED = b"""<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="30mm" viewBox="0 0 60 30">
<path d="M5 15C15 0 25 30 35 15" fill="none" stroke="#3366cc" stroke-width="2"/>
<circle cx="48" cy="15" r="8" fill="#ffcc00" stroke="#222222" stroke-width="1"/></svg>"""


def test_strokes_come_in_as_areas_or_as_lines():
    areas = read_drawing(STROKED, "a.svg")
    assert areas.strokes == 2
    assert areas.open == 0
    assert len(areas.things) == 3
    lines = read_drawing(STROKED, "a.svg", Reading(lines=True))
    assert lines.strokes == 2
    assert [t.colour for t in lines.things] == ["#3366cc", "#ffcc00"]
    (line,), (disc,) = (t.contours for t in lines.things)
    assert not line.closed
    assert len(line) == 1
    assert disc.closed
    assert abs(disc.area) == pytest.approx(math.pi * 64, rel=1e-3)


def test_a_drawing_of_lines_alone_may_come_in_as_lines():
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="9mm" viewBox="0 0 40 9">'
    svg += b'<path d="M2 4H38" stroke="#000" stroke-width="1"/></svg>'
    lines = read_drawing(svg, "line.svg", Reading(lines=True))
    assert lines.open == 1
    assert lines.width == pytest.approx(36)
