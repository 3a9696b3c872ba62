"""What a maker is told about holes."""

from __future__ import annotations

import pytest
import shapely

from drelo.core.form.base import Base
from drelo.core.form.holes import remarks_on_holes
from drelo.core.form.relief import Part

SQUARE = shapely.box(0, 0, 40, 40)
PLATE = shapely.box(-3, -3, 43, 43)
OUTLINE = Base("outline", margin=3)


def part(shape: shapely.Geometry, name: str = "Square", hole: bool = False) -> Part:
    return Part(shape, "through" if hole else 1.2, "#808080", name, hole=hole)


def disc(x: float, y: float, radius: float = 1.6) -> shapely.Geometry:
    return shapely.Point(x, y).buffer(radius, quad_segs=16)


@pytest.mark.parametrize(
    ("y", "said"), [(20, ""), (41.2, ""), (42.5, "breaks through the edge"), (60, "off the piece")]
)
def test_a_hole_is_in_the_piece_or_a_remark(y: float, said: str) -> None:
    remarks = remarks_on_holes([part(SQUARE), part(disc(20, y), "Hanging hole", hole=True)], PLATE, OUTLINE)
    assert len(remarks) == bool(said)
    assert all(r.text.startswith("Hanging hole") and said in r.text for r in remarks)


def test_a_cord_hole_that_the_base_closes_is_a_remark() -> None:
    pierced = part(shapely.difference(SQUARE, disc(20, 5)))
    assert "3.2 mm wide, is closed by the base" in remarks_on_holes([pierced], PLATE, OUTLINE)[0].text
    two = part(shapely.difference(pierced.shape, disc(20, 30, 4)))
    assert remarks_on_holes([two], PLATE, OUTLINE)[0].text.startswith("2 round holes, from 3.2 mm wide on, are closed")


@pytest.mark.parametrize(
    ("parts", "base"),
    [
        ([part(shapely.difference(SQUARE, disc(20, 5)))], Base("outline", keep_holes=True)),
        ([part(shapely.difference(SQUARE, disc(20, 5)))], Base("rectangle")),
        ([part(shapely.difference(SQUARE, disc(20, 5))), part(disc(20, 5))], OUTLINE),
        ([part(shapely.difference(SQUARE, disc(20, 20, 12)))], OUTLINE),
        ([part(shapely.difference(SQUARE, shapely.box(10, 10, 13, 13)))], OUTLINE),
    ],
    ids=["kept open", "on a plate", "filled", "wide", "square"],
)
def test_other_holes_are_no_remark(parts: list[Part], base: Base) -> None:
    assert remarks_on_holes(parts, PLATE, base) == ()
