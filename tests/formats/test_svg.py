import numpy as np
import pytest
import shapely

from drelo.core.errors import Refusal
from drelo.core.outline.contour import polygon
from drelo.core.outline.outline import Outline
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
