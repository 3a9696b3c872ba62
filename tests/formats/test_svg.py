import numpy as np
import pytest
import shapely
import svgelements as se
from hypothesis import assume, given
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour, polygon
from drelo.core.outline.outline import Outline
from drelo.core.outline.path_data import contours_of
from drelo.formats.svg import Drawing, write_svg
from drelo.formats.svg_in import read_svg


def svg(body: str, attributes: str = 'width="100mm" height="100mm" viewBox="0 0 100 100"') -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" {attributes}>{body}</svg>'.encode()


def area(data: bytes, index: int = 0) -> shapely.Geometry:
    return read_svg(data).shapes[index].flattened(0.001)


def test_what_is_written_reads_back():
    square = polygon(np.array([[10, 10], [40, 10], [40, 30], [10, 30.0]]))
    hole = polygon(np.array([[15, 15], [20, 15], [20, 25], [15, 25.0]]))
    data = write_svg([Drawing([Outline(square, (hole,))], "#c8553d", "bed & <border>")], 50, 40)
    assert b'width="50mm"' in data
    art = read_svg(data)
    assert art.shapes[0].colour == "#c8553d"
    read = art.shapes[0].flattened(0.001)
    assert read.area == pytest.approx(600 - 50, rel=1e-4)
    assert read.bounds == pytest.approx((10, 10, 40, 30), abs=1e-3)


@pytest.mark.parametrize(
    ("body", "attributes", "expected"),
    [
        ('<rect width="20" height="10"/>', 'width="100mm" height="100mm" viewBox="0 0 100 100"', 200),
        (
            '<rect width="20" height="10"/>',
            'width="4in" height="4in" viewBox="0 0 96 96"',
            200 * (101.6 / 96) ** 2,
        ),
        ('<rect width="96" height="48"/>', "", 25.4 * 12.7),
        ('<g transform="scale(2)"><g transform="rotate(30)"><rect width="5" height="5"/></g></g>', None, 100),
        ('<circle cx="50" cy="50" r="10"/>', None, np.pi * 100),
        ('<ellipse cx="50" cy="50" rx="10" ry="5"/>', None, np.pi * 50),
        ('<path d="M0 0h10v10h-10z m2 2v4h4v-4z"/>', None, 84),
        ('<path fill-rule="evenodd" d="M0 0h10v10h-10z m2 2h4v4h-4z"/>', None, 84),
        ('<path d="M0 0h10v10h-10z m2 2h4v4h-4z"/>', None, 100),
        ('<polygon points="0,0 10,0 10,10"/>', None, 50),
        ('<defs><rect id="r" width="4" height="4"/></defs><use href="#r" x="9"/>', None, 16),
        ('<line x1="0" y1="5" x2="10" y2="5" stroke="#000" stroke-width="2"/>', None, 20),
        ('<path d="M10 30a10 10 0 0 1 20 0z"/>', None, np.pi * 50),
        ('<path d="M0 0Q10 0 10 10L0 10z"/>', None, 250 / 3),
    ],
)
def test_shapes_units_and_transforms(body, attributes, expected):
    data = svg(body) if attributes is None else svg(body, attributes)
    assert area(data).area == pytest.approx(expected, rel=2e-3)


def test_colours_come_from_attributes_styles_and_classes():
    art = read_svg(
        svg(
            "<style>.leaf{fill:#3f6b3a}</style>"
            '<rect width="9" height="9" fill="red"/><rect width="9" height="9" style="fill:#1d3557"/>'
            '<rect width="9" height="9" class="leaf"/><rect width="9" height="9"/>'
        )
    )
    assert [s.colour for s in art.shapes] == ["#ff0000", "#1d3557", "#3f6b3a", "#000000"]


def test_invisible_shapes_are_left_out_and_text_is_reported():
    art = read_svg(
        svg(
            '<rect width="9" height="9" fill="none"/><rect width="9" height="9" display="none"/>'
            '<text x="1" y="9">Mossgate</text><circle r="4"/>'
        )
    )
    assert len(art.shapes) == 1
    assert "text" in art.remarks[0]


HOSTILE = {
    "entities": b'<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;">]><svg><text>&b;</text></svg>',
    "nesting": b"<svg>" + b"<g>" * 5000 + b'<rect width="9" height="9"/>' + b"</g>" * 5000 + b"</svg>",
    "numbers": svg('<path d="M0 0L1e300 0L5 5z"/>'),
    "not a number": svg('<path d="M0 0L nan 0 L5 5z"/>'),
    "broken": b"<svg><rect width='9' height='9'>",
    "nothing": svg(""),
    "no svg": b"hello",
}


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_and_broken_files_are_refused(name):
    with pytest.raises(Refusal):
        read_svg(HOSTILE[name])


# Paths that are read at once


def elsewhere(data: str) -> list[np.ndarray]:
    """Points along each subpath as another library draws it, lines without length left out."""
    found = []
    for part in map(se.Path, se.Path(data).as_subpaths()):
        drawn = [s for s in part if not isinstance(s, se.Move) and (isinstance(s, se.CubicBezier) or s.start != s.end)]
        if drawn:
            found.append(np.array([[p.x, p.y] for s in drawn for p in (s.point(0.3), s.end)]))
    return found


def along(sub: Contour) -> np.ndarray:
    a, b, c, d = (sub.curves[:, i] for i in range(4))
    middle = 0.343 * a + 0.441 * b + 0.189 * c + 0.027 * d
    return np.stack([middle, d], axis=1).reshape(-1, 2)


number = st.integers(-99, 99).map(lambda n: str(n / 4))


def command(letter: str, count: int) -> st.SearchStrategy[str]:
    return st.lists(st.lists(number, min_size=count, max_size=count), min_size=1, max_size=3).map(
        lambda groups: letter + " ".join(n for g in groups for n in g)
    )


drawn = st.one_of(
    *(command(c, n) for c, n in (("L", 2), ("l", 2), ("H", 1), ("h", 1), ("V", 1), ("v", 1), ("C", 6), ("c", 6)))
)
sub = st.tuples(
    command("M", 2) | command("m", 2), st.lists(drawn, min_size=1, max_size=5), st.sampled_from(["", "Z", "z"])
)


@given(st.lists(sub, min_size=1, max_size=3))
def test_paths_of_lines_and_cubics_are_what_another_library_draws(subs):
    data = " ".join(move + "".join(rest) + end for move, rest, end in subs)
    mine, theirs = [along(s) for s in contours_of(data)], elsewhere(data)
    assert [len(m) for m in mine] == [len(t) for t in theirs]
    for one, other in zip(mine, theirs, strict=True):
        assert one == pytest.approx(other, abs=1e-6)


@pytest.mark.parametrize(
    "data", ["", "L1 1", "M1", "M0 0C1 2 3 4 5", "M0 0A1 1 0 2 1 2 2", "M0 0Q1 1 2", "M0 0L1 1x", "M0 0ZL2 2"]
)
def test_other_or_broken_paths_are_left_to_the_usual_reader(data):
    assert contours_of(data) is None


def on_curves(curves: np.ndarray) -> np.ndarray:
    t = np.linspace(0, 1, 40)[:, None, None]
    a, b, c, d = (curves[:, k] for k in range(4))
    on = (1 - t) ** 3 * a + 3 * t * (1 - t) ** 2 * b + 3 * t * t * (1 - t) * c + t**3 * d
    return on.transpose(1, 0, 2).reshape(-1, 2)


far = st.floats(-50, 50).map(lambda v: round(v, 3))


@given(far, far, far, far, st.floats(0.5, 60), st.floats(0.5, 60), st.floats(-400, 400), st.booleans(), st.booleans())
def test_an_arc_lies_on_its_ellipse_the_way_round_that_its_flags_say(x, y, ex, ey, rx, ry, turn, large, sweep):
    assume(np.hypot(ex - x, ey - y) > 0.1)
    (one,) = contours_of(f"M{x} {y}A{rx} {ry} {turn} {large:d}{sweep:d}{ex} {ey}")
    points = on_curves(one.curves)
    assert points[0].tolist() == [x, y]
    assert points[-1].tolist() == [ex, ey]
    # Where the ellipse is a circle of radius 1, or of half the way between the ends where that is more.
    angle = np.radians(turn)
    flat = points @ np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]]) / [rx, ry]
    half = np.linalg.norm(flat[-1] - flat[0]) / 2
    flat /= max(half, 1.0)
    half = min(half, 1.0)
    away = (flat[-1] - flat[0]) / np.linalg.norm(flat[-1] - flat[0])
    centre = (flat[0] + flat[-1]) / 2 + (1 if large != sweep else -1) * np.sqrt(1 - half**2) * np.array(
        [-away[1], away[0]]
    )
    assert np.linalg.norm(flat - centre, axis=1) == pytest.approx(1, abs=1e-3)
    turned = np.unwrap(np.arctan2(*(flat - centre).T[::-1]))
    assert (turned[-1] > turned[0]) == sweep
    if half < 0.999:
        assert (abs(turned[-1] - turned[0]) > np.pi) == large


def test_quadratic_and_smooth_curves_are_what_another_library_draws():
    for data in (
        "M0 0Q4 8 8 0T16 0 24 4",
        "M0 0q4 8 8 0t8 0",
        "M1 2C3 9 6 9 8 2S13-4 15 2 20 9 22 3",
        "m0 0c1 5 5 5 8 0s4-3 6 1z",
    ):
        (one,), (other,) = contours_of(data), elsewhere(data)
        assert along(one) == pytest.approx(other, abs=1e-6)


def test_flags_of_arcs_may_stand_close_together():
    for close, apart in (
        ("a5 4 10 013 3", "a5 4 10 0 1 3 3"),
        ("A5,4,10,1,0-3,3 2 2 0 00.5.5", "A5 4 10 1 0 -3 3 2 2 0 0 0 .5 .5"),
    ):
        (one,), (other,) = contours_of("M1 1" + close), contours_of("M1 1" + apart)
        assert one.curves == pytest.approx(other.curves)


@pytest.mark.parametrize(
    "data", ["M1,2-3.5.5L4e1 2", "m1 2 3 4", "M 1 2 C 1 2 3 4 5 6 Z", "M1 2C1 2,3 4,5 6z", "M0 0l1-1z"]
)
def test_numbers_may_stand_close_together(data):
    (one,) = contours_of(data)
    other = elsewhere(data)[0]
    assert along(one)[-1] == pytest.approx(other[-1], abs=1e-6)


def test_paths_keep_their_order_look_and_place_among_others():
    red, blue = 'fill="#ff0000"', 'fill="#0000ff" transform="translate(1 0)"'
    art = read_svg(
        svg(
            f'<path {red} d="M0 0h1v1z"/><path {blue} d="M1 0h1v1z"/><path {red} d="M2 0h1v1z"/>'
            f'<rect width="9" height="9" fill="#00ff00"/><path {blue} d="M3 0h1v1z"/>'
            f'<path {red} display="none" d="M4 0h1v1z"/><path {red} d="M5 0h1v1z"/>'
            f'<g id="two"><path {red} d="M6 0h1v1z"/><path {red} d="M7 0h1v1z"/></g><use href="#two" x="10"/>'
        )
    )
    found = [(s.colour[1:3] + s.colour[5:], round(float(s.contours[0].curves[0, 0, 0]))) for s in art.shapes]
    assert found == [
        ("ff00", 0), ("00ff", 2), ("ff00", 2), ("0000", 0), ("00ff", 4), ("ff00", 5),
        ("ff00", 6), ("ff00", 7), ("ff00", 16), ("ff00", 17),
    ]  # fmt: skip
