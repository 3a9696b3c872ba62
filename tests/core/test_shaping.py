"""Outlines under the hand: booleans, offsets, nodes, easing, lines, pours, lettering."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.lettering.fonts import Font, font_of
from drelo.core.lettering.layout import Setting, letters
from drelo.core.outline import ease, grow, nodes, ties, trim
from drelo.core.outline.combine import combined, crossing, divided, united_rings
from drelo.core.outline.contour import Contour, polygon
from drelo.core.outline.fitting import fitted_outlines
from drelo.core.outline.outline import Outline, bounds
from drelo.core.outline.path_data import read_path, write_path
from drelo.core.outline.place import line, nearest, point_at, spliced, stretch
from drelo.core.outline.pour import pour
from drelo.core.outline.primitives import ellipse, rectangle, regular, ring, star
from drelo.core.outline.spline import by_control_points, drawn_line, through_points
from drelo.formats.fonts import NAMES, shipped_font
from tests.refusals import refused

FINE = 1e-4


def moved(contour: Contour, x: float, y: float) -> Contour:
    return contour.transformed(1, x, y)


def area(outlines: list[Outline]) -> float:
    return sum(o.area for o in outlines)


discs = st.tuples(st.floats(-20, 20), st.floats(-20, 20), st.floats(2, 15))


@given(discs, discs)
@settings(max_examples=40, deadline=None)
def test_booleans_cover_what_fine_polygons_cover(a: tuple[float, ...], b: tuple[float, ...]) -> None:
    one, other = (Outline(moved(ellipse(2 * r, 2 * r), x, y)) for x, y, r in (a, b))
    p, q = (o.flattened(FINE) for o in (one, other))
    for how, wanted in (
        ("unite", shapely.union(p, q)),
        ("carve", shapely.difference(p, q)),
        ("overlap", shapely.intersection(p, q)),
    ):
        found = combined(how, [one], [other])  # type: ignore[arg-type]
        assert area(found) == pytest.approx(wanted.area, abs=0.02)
        assert sum(o.nodes for o in found) <= 16


def test_stretches_that_nothing_touched_keep_their_nodes() -> None:
    one, other = Outline(ellipse(20, 20)), Outline(moved(ellipse(10, 10), 12, 0))
    whole = combined("unite", [one], [other])[0].outer
    kept = {tuple(np.round(c.ravel(), 9)) for c in one.outer.curves} & {
        tuple(np.round(c.ravel(), 9)) for c in np.concatenate([whole.curves, whole.curves[:, ::-1]])
    }
    assert len(kept) == 2
    far = combined("unite", [one], [Outline(moved(ellipse(4, 4), 40, 0))])
    assert sorted(o.nodes for o in far) == [4, 4]


def test_divide_gives_every_face_and_silhouette_fills_holes() -> None:
    a, b = Outline(ellipse(20, 20)), Outline(moved(ellipse(20, 20), 8, 0))
    faces = divided([a, b])
    assert len(faces) == 3
    assert area(faces) == pytest.approx(area(combined("unite", [a], [b])), rel=1e-4)
    outer, inner = ring(30, 10)
    filled = combined("silhouette", [Outline(outer, (inner,))])
    assert area(filled) == pytest.approx(outer.area, rel=1e-6)


def test_a_figure_eight_is_cleaned() -> None:
    eight = polygon(np.array([[0.0, 0], [10, 10], [10, 0], [0, 10]]))
    assert area(united_rings([eight], "evenodd")) == pytest.approx(50, rel=1e-6)


@given(st.floats(0.3, 12), st.sampled_from(["round", "mitre", "bevel"]))
@settings(max_examples=25, deadline=None)
def test_an_offset_lies_where_it_should_with_few_nodes(by: float, corners: str) -> None:
    shapes = [
        Outline(ellipse(30, 18)),
        Outline(moved(rectangle(20, 12, 2), 40, 4)),
        Outline(moved(star(5, 20, 9), 0, 40)),
    ]
    found = grow.offset(shapes, by, corners)  # type: ignore[arg-type]
    fine = shapely.union_all([o.flattened(FINE) for o in shapes])
    true = shapely.buffer(fine, by, quad_segs=400, join_style=corners, mitre_limit=grow.MITRE_LIMIT)  # type: ignore[arg-type]
    got = shapely.union_all([o.flattened(FINE) for o in found])
    assert shapely.hausdorff_distance(got.boundary, true.boundary) < 0.01
    assert sum(o.nodes for o in found) < 90


def test_growing_and_shrinking_closes_gaps() -> None:
    two = [Outline(rectangle(10, 10)), Outline(moved(rectangle(10, 10), 11, 0))]
    assert len(grow.offset_twice(two, 0.6, -0.6)) == 1
    assert len(grow.offset_twice(two, 0.4, -0.4)) == 2


def test_a_line_gets_its_width() -> None:
    wide = grow.widened([line(np.zeros(2), np.array([20.0, 0]))], 2, "flat")
    assert area(wide) == pytest.approx(40, rel=1e-3)
    round_ = grow.widened([line(np.zeros(2), np.array([20.0, 0]))], 2, "round")
    assert area(round_) == pytest.approx(40 + math.pi, rel=1e-3)
    hoop = grow.widened([ellipse(20, 20)], 2)
    assert len(hoop[0].holes) == 1


def test_ties_join_loose_parts_with_rounded_roots() -> None:
    parts = [Outline(rectangle(10, 10)), Outline(moved(rectangle(10, 10), 14, 0)), Outline(moved(ellipse(4, 4), 0, 12))]
    links = ties.proposed(parts)
    assert [round(link.length, 2) for link in links] == [4, 5]
    made = [o for link in links for o in ties.tie(parts, link, 2.0)]
    assert len(combined("unite", parts, made)) == 1
    straight = 2.0 * links[0].length
    assert area(ties.tie(parts, links[0], 2.0)) > straight + 2 * 2 * 0.75 * 2


def test_a_node_more_changes_nothing_and_one_less_hardly() -> None:
    circle = ellipse(20, 20)
    more = nodes.inserted(circle, 1, 0.3)
    assert len(more) == 5
    assert more.area == pytest.approx(circle.area, rel=1e-12)
    less = nodes.deleted(more, [2])
    assert less is not None
    assert len(less) == 4
    assert less.area == pytest.approx(circle.area, rel=1e-3)
    assert nodes.deleted(rectangle(4, 4), [0, 1, 2]) is None


def test_moving_nodes_keeps_lines_straight_and_ends_together() -> None:
    square = nodes.moved(rectangle(10, 10), [0, 1], 0, 3)
    assert square.straight.all()
    assert square.area == pytest.approx(130)
    curve = nodes.moved(ellipse(10, 10), [2], 1, 1)
    assert np.abs(curve.curves[1:, 0] - curve.curves[:-1, 3]).max() == 0
    with refused("no longer there"):
        nodes.moved(square, [9], 1, 1)


def test_corners_become_smooth_and_smooth_ones_corners() -> None:
    square = nodes.smooth(rectangle(10, 10), [0])
    assert not ease.is_corner(square, 0)
    assert ease.is_corner(square, 1)
    assert ease.is_corner(nodes.corner(ellipse(10, 10), [1]), 1)


def test_lines_open_close_and_join() -> None:
    opened = nodes.opened(rectangle(10, 10), 2)
    assert not opened.closed
    assert nodes.closed(opened).area == pytest.approx(100)
    a, b = line(np.zeros(2), np.array([5.0, 0])), line(np.array([5.0, 4]), np.array([5.0, 0]))
    assert len(nodes.joined(a, b)) == 2
    apart = nodes.joined(a, line(np.array([7.0, 0]), np.array([9.0, 0])))
    assert len(apart) == 3
    with refused("open lines"):
        nodes.joined(rectangle(1, 1), a)


def shaky(count: int = 160, amount: float = 0.12) -> Contour:
    rng = np.random.default_rng(3)
    angle = np.linspace(0, 2 * np.pi, count, endpoint=False)
    radius = 15 + rng.normal(0, amount, count)
    return polygon(np.column_stack([radius * np.cos(angle), radius * np.sin(angle)]))


def test_easing_calms_a_stretch_within_its_tolerance_and_leaves_the_rest() -> None:
    rough = shaky()
    rubbed = np.column_stack([15 * np.cos(np.linspace(0.2, 1.6, 30)), 15 * np.sin(np.linspace(0.2, 1.6, 30))])
    calm = ease.eased(rough, rubbed, 1.5, 0.6)
    assert calm is not None
    assert len(calm) < len(rough) - 20
    off = shapely.hausdorff_distance(
        shapely.Polygon(calm.flattened(0.01)).boundary, shapely.Polygon(rough.flattened(0.01)).boundary
    )
    assert off < 0.65
    untouched = rough.curves[np.hypot(*(rough.curves[:, 0] - [15, 15]).T) > 25]
    have = {tuple(c.ravel()) for c in calm.curves}
    assert all(tuple(c.ravel()) in have for c in untouched)
    assert ease.eased(rough, np.array([[100.0, 100]]), 1, 0.5) is None


def test_easing_holds_corners() -> None:
    square = rectangle(20, 20)
    calm = ease.eased(square, np.array([[9.0, 9], [10, 10], [9, 11]]), 4, 1.0)
    assert calm is not None
    assert calm.area == pytest.approx(400, rel=1e-3)


@given(st.floats(0.02, 0.5))
@settings(max_examples=15, deadline=None)
def test_simplifying_stays_within_its_tolerance(tolerance: float) -> None:
    rough = shaky(amount=0.05)
    plain = ease.simplified(rough, tolerance)
    assert len(plain) <= len(rough)
    off = shapely.hausdorff_distance(
        shapely.LinearRing(plain.flattened(0.001)), shapely.LinearRing(rough.flattened(0.001))
    )
    assert off <= tolerance * 1.05


def test_a_stretch_becomes_a_line_or_an_arc() -> None:
    bumpy = nodes.moved(rectangle(20, 10, 1), [1], 0, 0.4)
    flat = ease.straightened(bumpy, (-9, -5), (9, -5))
    assert flat.area == pytest.approx(bumpy.area, rel=1e-6)
    cut = ease.straightened(ellipse(20, 20), (10, 0), (0, 10))
    assert cut.area == pytest.approx(ellipse(20, 20).area - (25 * math.pi - 50), rel=1e-3)
    rough = shaky(amount=0.08)
    arc = ease.rounded(rough, (15, 0), (0, 15))
    piece = stretch(arc, *sorted(nearest(arc, np.array([[15.0, 0], [0, 15]]))[0].tolist()))
    radius = np.hypot(*np.array([point_at(piece, t) for t in np.linspace(0.1, len(piece) - 0.1, 12)]).T)
    assert radius == pytest.approx(15, abs=0.3)
    assert len(arc) < len(rough) - 30


def test_a_stretch_taken_out_and_put_back_is_the_same() -> None:
    circle = ellipse(20, 20)
    part = stretch(circle, 0.5, 2.25)
    again = spliced(circle, 0.5, 2.25, part)
    assert again.area == pytest.approx(circle.area, rel=1e-9)


def test_trimming_takes_the_clicked_stretch() -> None:
    circle, bar = ellipse(20, 20), line(np.array([-15.0, 0]), np.array([15.0, 0]))
    assert trim.crossings([circle, bar], 1) == pytest.approx([1 / 6, 5 / 6], abs=1e-6)
    rest = trim.trimmed([circle, bar], 0, (0, 10))
    assert len(rest) == 1
    assert not rest[0].closed
    assert rest[0].bounds[3] == pytest.approx(0, abs=1e-6)
    inner = trim.trimmed([circle, bar], 1, (0, 0))
    assert [round(float(abs(c.curves[0, 0, 0] - c.curves[-1, 3, 0])), 4) for c in inner] == [5, 5]
    assert trim.trimmed([bar, moved(circle, 100, 0)], 0, (0, 0)) == []
    assert len(trim.split([circle, bar], 0)) == 2
    assert len(trim.split([circle, bar], 1)) == 3


@given(st.floats(0.05, 4))
@settings(max_examples=20, deadline=None)
def test_a_pour_finds_its_leak_and_how_wide_it_is(gap: float) -> None:
    corners = [(0, 0), (30, 0), (30, 20), (0, 20), (0, gap)]
    sides = [line(np.array(a, float), np.array(b, float)) for a, b in itertools.pairwise(corners)]
    found = pour(sides, (10, 10))
    assert found.outline is None
    assert found.leak is not None
    assert found.leak.width == pytest.approx(gap, rel=1e-3)
    closed = pour(sides, (10, 10), gap + 1e-6)
    assert closed.outline is not None
    assert closed.outline.area == pytest.approx(600, rel=1e-6)
    assert pour(sides, (200, 10)).leak is None


def test_a_pour_keeps_curves_and_islands() -> None:
    found = pour([ellipse(20, 20), ellipse(6, 6)], (8, 0))
    assert found.outline is not None
    assert (found.outline.nodes, len(found.outline.holes)) == (8, 1)


def test_lines_by_clicks() -> None:
    points = np.array([[0.0, 0], [10, 0], [10, 10], [0, 10]])
    through = through_points(points, False)
    assert np.abs(through.curves[:, 0] - points[:-1]).max() == 0
    pulled = by_control_points(points, False)
    assert (pulled.curves[0, 0] == points[0]).all()
    assert (pulled.curves[-1, 3] == points[-1]).all()
    assert shapely.Polygon(points).buffer(1e-9).covers(shapely.LineString(pulled.flattened(0.01)))
    closed = drawn_line(points[0], [("straight", p) for p in points[1:]], True)
    assert closed.area == pytest.approx(100)
    arc = drawn_line(np.array([-5.0, 0]), [("arc", np.array([0.0, 5])), ("arc", np.array([5.0, 0]))], False)
    assert np.hypot(*arc.flattened(0.001).T) == pytest.approx(5, abs=0.01)


def test_primitives_have_their_measures() -> None:
    assert ellipse(20, 10).area == pytest.approx(math.pi * 50, rel=5e-4)
    assert rectangle(20, 10, 3).area == pytest.approx(200 - (4 - math.pi) * 9, rel=5e-4)
    assert rectangle(20, 10, 99).bounds == pytest.approx((-10, -5, 10, 5))
    assert abs(regular(6, 20).area) == pytest.approx(3 * math.sqrt(3) / 2 * 100)
    assert len(star(7, 20, 9)) == 14


@given(st.lists(st.tuples(st.floats(-500, 500), st.floats(-500, 500)), min_size=3, max_size=20, unique=True))
def test_path_data_comes_in_as_it_went_out(points: list[tuple[float, float]]) -> None:
    contour = polygon(np.round(np.array(points), 4))
    back = read_path(write_path([contour, ellipse(3, 2)]))
    assert len(back) == 2
    assert back[0].area == pytest.approx(contour.area, abs=1e-3)


@pytest.mark.parametrize("text", ["L1 1", "M0 0L1", "M0 0A1 1 0 0 0 2 2", "M0 0Lx y", "M0 0L1e9 1", "M0 0C1 1Z"])
def test_other_path_data_is_refused(text: str) -> None:
    with pytest.raises(Refusal):
        read_path(text)


@pytest.mark.parametrize("name", list(NAMES))
def test_every_shipped_font_sets_words_at_their_height(name: str) -> None:
    found = letters("HÄuser 14", font_of(shipped_font(name)), Setting(height=12))
    assert len(found) >= 1
    capital = letters("H", font_of(shipped_font(name)), Setting(height=12))
    box = bounds(capital)
    assert box is not None
    assert box[3] - box[1] == pytest.approx(12, rel=0.12)
    for one, other in itertools.pairwise(found):
        assert shapely.intersection(one.flattened(0.01), other.flattened(0.01)).area < 0.05


def test_words_are_joined_fitted_spaced_and_bent() -> None:
    script, sans = font_of(shipped_font("script")), font_of(shipped_font("sans"))
    assert len(letters("teen", script, Setting())) == 1
    assert len(letters("teen", sans, Setting())) == 4
    box = bounds(letters("teen", sans, Setting(width=77)))
    assert box is not None
    assert box[2] - box[0] == pytest.approx(77, rel=1e-6)
    wide = bounds(letters("teen", sans, Setting(spacing=0.5)))
    near = bounds(letters("teen", sans, Setting()))
    assert wide is not None
    assert near is not None
    assert wide[2] - wide[0] == pytest.approx(near[2] - near[0] + 3 * 5, rel=0.02)
    over = bounds(letters("MOSSGATE", sans, Setting(height=5, path="above", radius=30)))
    under = bounds(letters("MOSSGATE", sans, Setting(height=5, path="below", radius=30)))
    assert over is not None
    assert under is not None
    assert over[1] == pytest.approx(-35, abs=0.6)
    assert under[3] == pytest.approx(30, abs=0.6)
    two = letters("a\nb", sans, Setting())
    assert abs(two[0].outer.bounds[1] - two[1].outer.bounds[1]) > 8


@pytest.mark.parametrize("data", [b"", b"no font", b"wOF2" + b"\0" * 400, b"\0\1\0\0" + b"\xff" * 200])
def test_what_is_no_font_is_refused(data: bytes) -> None:
    with refused("font"):
        Font(data)


def test_no_words_are_refused() -> None:
    with refused("Type a word"):
        letters(" \n ", font_of(shipped_font("sans")), Setting())


def test_a_fit_keeps_corners_lines_and_arcs() -> None:
    shape = shapely.buffer(shapely.box(0, 0, 30, 20), 3, quad_segs=90)
    (found,) = fitted_outlines(shape, 0.005)
    assert found.outer.straight.sum() == 4
    assert found.nodes == 8


def spiked(height: float) -> Contour:
    """A square of 20 mm with a spike on its upper side."""
    points = [(0, 0), (9.8, 0), (10, -height), (10.2, 0), (20, 0), (20, 20), (0, 20)]
    return polygon(np.array(points, float))


def test_a_spike_within_the_tolerance_is_eased_away_and_corners_stay() -> None:
    rubbed = np.array([(7.0, 0.0), (13.0, 0.0)])
    calm = ease.eased(spiked(0.12), rubbed, 1.0, 0.15)
    assert calm is not None
    assert calm.bounds == pytest.approx((0, 0, 20, 20), abs=0.02)
    assert len(calm) < 7
    assert not ease.same(spiked(0.12), calm, 0.15)


def test_what_stands_out_further_than_the_tolerance_is_not_eased() -> None:
    spike = spiked(0.6)
    calm = ease.eased(spike, np.array([(7.0, 0.0), (13.0, 0.0)]), 1.0, 0.15)
    assert calm is not None
    assert ease.same(spike, calm, 0.15)


def test_a_border_has_the_holes_of_what_it_surrounds_and_no_stray_ones() -> None:
    around = [rectangle(3, 3).mapped((1, 0, 0, 1, x, y)) for x, y in ((0, 0), (8, 0), (0, 8), (8, 8), (4, -3), (4, 11))]
    sides = [rectangle(3, 3).mapped((1, 0, 0, 1, x, y)) for x, y in ((-3, 4), (11, 4))]
    pierced = ring(14, 10)
    apart = [Outline(c) for c in (*around, *sides)]
    (grown,) = grow.offset(apart, 1.2)
    assert not grown.holes
    holed = Outline(pierced[0], (pierced[1],)).transformed(1, 40, 0)
    found = grow.offset([*apart, holed], 1.2)
    assert sorted(len(o.holes) for o in found) == [0, 1]


def test_a_curve_that_is_a_point_crosses_nothing():
    straight = np.linspace((0, 0), (3, 1), 4)
    for one, other in ((np.zeros((4, 2)), straight), (straight, np.ones((4, 2))), (np.zeros((4, 2)), np.ones((4, 2)))):
        assert crossing(one, other) == (1.0, 0.0)
