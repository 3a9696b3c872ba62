"""What is laid: as much as the solid holds, inside it, in an order that hands can follow."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.rehearsal.hatch import straight
from drelo.core.rehearsal.lines import KINDS, Lines
from drelo.core.rehearsal.paths import Laid, laid
from drelo.core.rehearsal.settings import Manner
from drelo.core.rehearsal.thin import middles, width_of

LINE = 0.44
NONE = shapely.Polygon()


def filled(area, manner: Manner, skin=None) -> Laid:
    return laid(area, lambda rest: NONE if skin is None else shapely.intersection(rest, skin), LINE, manner, odd=False)


def kinds(found: Lines) -> set[str]:
    return {KINDS[kind] for kind in found.kinds}


SHAPES = {
    "square": shapely.box(0, 0, 20, 20),
    "disc": shapely.Point(15, 15).buffer(12, quad_segs=32),
    "ring": shapely.Point(15, 15).buffer(12, quad_segs=32) - shapely.Point(15, 15).buffer(7, quad_segs=32),
    "cross": shapely.box(0, 8, 30, 14) | shapely.box(12, 0, 18, 30),
    "many": shapely.union_all([shapely.box(9 * i, 9 * j, 9 * i + 6, 9 * j + 4) for i in range(5) for j in range(5)]),
}


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("pattern", ["lines", "concentric"])
def test_a_solid_infill_lays_as_much_as_there_is(name, pattern):
    area = SHAPES[name]
    found = filled(area, Manner(infill=1, pattern=pattern))
    assert found.lines.areas.sum() == pytest.approx(area.area, rel=0.02)
    assert found.missing.is_empty


@pytest.mark.parametrize("share", [0.1, 0.25, 0.5])
@pytest.mark.parametrize("pattern", ["lines", "grid", "concentric"])
def test_sparse_infill_is_as_dense_as_it_says(share, pattern):
    area = shapely.box(0, 0, 60, 60)
    found = filled(area, Manner(infill=share, pattern=pattern)).lines
    inside = (60 - 4 * LINE) ** 2
    sparse = found.areas[found.kinds == KINDS.index("infill")].sum()
    assert sparse == pytest.approx(share * inside, rel=0.06)


@given(st.floats(1, 40), st.floats(1, 40), st.floats(-math.pi, math.pi))
def test_lines_keep_inside_and_reach_everywhere(width, depth, angle):
    area = shapely.box(0, 0, width, depth)
    lines = straight(area, LINE, angle, 0.0)
    shown = shapely.multilinestrings([shapely.linestrings(line) for line in lines])
    assert shapely.contains(area.buffer(1e-6), shown)
    assert sum(np.hypot(*(b - a)) for a, b in lines) * LINE == pytest.approx(width * depth, rel=0.2, abs=2)


def test_walls_stand_half_a_line_inside():
    found = filled(SHAPES["square"], Manner(walls=3, infill=0)).lines
    walls = [found.points[a:b] for a, b in zip(found.starts[:-1], found.starts[1:], strict=True)]
    borders = sorted(float(wall.min()) for wall in walls)
    assert borders == pytest.approx([LINE / 2, 3 * LINE / 2, 5 * LINE / 2])
    assert kinds(found) == {"outer wall", "inner wall"}


@pytest.mark.parametrize("width", [0.3, 0.36, 0.42])
def test_a_thin_wall_is_one_line_of_its_own_width(width):
    area = shapely.box(0, 0, 30, width)
    found = filled(area, Manner())
    assert kinds(found.lines) == {"thin wall"}
    assert found.lines.widths[0] == pytest.approx(width, rel=0.05)
    assert found.lines.areas.sum() == pytest.approx(area.area, rel=0.02)


def test_what_is_thinner_is_not_printed_and_marked():
    area = shapely.union_all([shapely.box(0, 0, 30, 0.2), shapely.box(0, 5, 10, 15)])
    found = filled(area, Manner(infill=1))
    assert found.missing.area == pytest.approx(6, rel=0.01)
    assert found.missing.bounds == pytest.approx((0, 0, 30, 0.2), abs=0.01)


def test_the_middle_follows_a_wall_that_bends_and_one_that_closes():
    bow = shapely.LineString([(30 * math.cos(t), 30 * math.sin(t)) for t in np.linspace(0, 4.5, 200)]).buffer(
        0.15, cap_style="flat"
    )
    (middle,), left = middles(bow, LINE, 0.2)
    assert not left
    assert np.hypot(*middle.points.T) == pytest.approx(30, abs=0.08)
    assert middle.width == pytest.approx(0.3, rel=0.05)
    ring = shapely.Point(0, 0).buffer(10.15, quad_segs=64) - shapely.Point(0, 0).buffer(9.85, quad_segs=64)
    (middle,), _ = middles(ring, LINE, 0.2)
    assert np.hypot(*middle.points.T) == pytest.approx(10, abs=0.02)
    assert (middle.points[0] == middle.points[-1]).all()


def test_a_wall_that_branches_is_still_laid():
    star = shapely.union_all([shapely.box(0, 0, 20, 0.35), shapely.box(10, 0, 10.35, 12)])
    found = filled(star, Manner())
    assert kinds(found.lines) == {"thin wall"}


def test_skin_is_laid_where_it_is_seen_and_infill_elsewhere():
    area, seen = shapely.box(0, 0, 40, 40), shapely.box(0, 0, 20, 40)
    found = filled(area, Manner(infill=0.1), seen).lines
    by_kind = {
        kind: np.vstack([found.points[a:b] for a, b, k in zip(found.starts, found.starts[1:], found.kinds, strict=False)
                         if KINDS[k] == kind])
        for kind in ("skin", "infill")
    }  # fmt: skip
    assert by_kind["skin"][:, 0].max() < 22
    assert by_kind["infill"][:, 0].min() > 18


@pytest.mark.parametrize(("across", "inside"), [(0.9, False), (3.0, True)])
def test_between_many_holes_of_skin_infill_is_laid_where_there_is_room_for_it(across, inside):
    """As under hundreds of studs: skin grows by a line all round each of them."""
    area = shapely.box(0, 0, 64, 64)
    studs = [shapely.box(x, y, x + across, y + across) for x in range(2, 61, 4) for y in range(2, 61, 4)]
    found = filled(area, Manner(infill=0.5), shapely.difference(area, shapely.union_all(studs)))
    assert ("infill" in kinds(found.lines)) == inside
    assert "skin" in kinds(found.lines)


def test_a_brim_goes_round_outside():
    area = shapely.box(0, 0, 10, 10)
    found = laid(area, lambda _: NONE, LINE, Manner(), odd=False, brim=3).lines
    brim = found.points[np.repeat(found.kinds, np.diff(found.starts)) == KINDS.index("brim")]
    assert not shapely.contains_properly(area, shapely.points(brim)).any()
    assert brim.min() == pytest.approx(-2.5 * LINE, abs=0.01)


def test_islands_are_finished_one_by_one_and_walls_come_before_infill():
    found = filled(SHAPES["many"], Manner(infill=0.5)).lines
    firsts = found.points[found.starts[:-1]]
    island = (firsts[:, 0] // 9).astype(int) * 5 + (firsts[:, 1] // 9).astype(int)
    assert (np.diff(island) != 0).sum() == 24
    for number in range(25):
        mine = [KINDS[kind] for kind in found.kinds[island == number]]
        assert max(i for i, kind in enumerate(mine) if "wall" in kind) < mine.index("infill")


def test_a_width_is_that_of_a_strip():
    assert width_of(shapely.box(0, 0, 20, 0.4)) == pytest.approx(0.4)
