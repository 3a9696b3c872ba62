"""The parts of the fit: curves, the solver round a ring, coverage, merging, nesting."""

import itertools

import cv2
import numpy as np
import pytest
import shapely
from benchmarks.tracing.measure import corner_nodes
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.outline.contour import Contour, polygon
from drelo.core.outline.cubics import basis, fit
from drelo.core.picture.decode import decode
from drelo.core.trace.contours.fit import contours, through
from drelo.core.trace.corners.corners import find_corners
from drelo.core.trace.corners.tips import there_and_back, with_tips
from drelo.core.trace.fit import rings
from drelo.core.trace.fit.curves import Curves, chosen, edges, place, probes, together, unit
from drelo.core.trace.fit.merge import merged
from drelo.core.trace.fit.refine import joined, settle, tied, turns
from drelo.core.trace.fit.scene import InkScene, blur_between, observed
from drelo.core.trace.fit.segments import segment
from drelo.core.trace.ink import InkSettings, trace_ink
from drelo.core.trace.nesting import nested, outer_only
from drelo.core.trace.seen.coverage import between, coverage, mixed
from drelo.core.trace.seen.level_lines import ClosedLines, level_lines
from drelo.core.trace.seen.samples import SPACING, calmed, sample


def closed(*rings_of: np.ndarray) -> ClosedLines:
    return ClosedLines(np.concatenate(rings_of), np.concatenate([[0], np.cumsum([len(r) for r in rings_of])]))


def circle(cx: float, cy: float, r: float, count: int = 400) -> np.ndarray:
    """Ink on the left as seen on the screen: against the clock there."""
    angle = -2 * np.pi * np.arange(count) / count
    return np.column_stack([cx + r * np.cos(angle), cy + r * np.sin(angle)])


def box(x0: float, y0: float, x1: float, y1: float) -> np.ndarray:
    corners = np.array([[x0, y0], [x0, y1], [x1, y1], [x1, y0]], float)
    sides = [np.linspace(a, b, 40, endpoint=False) for a, b in zip(corners, np.roll(corners, -1, 0), strict=True)]
    return np.concatenate(sides)


def first_fit(lines: ClosedLines, tolerance: float = 0.2):
    samples = sample(lines)
    return segment(samples, find_corners(samples, 0.5), 0.5, tolerance)


# Samples


def test_samples_are_even_and_on_the_line():
    samples = sample(closed(circle(50, 60, 30), box(100, 10, 160, 50)))
    assert len(samples.starts) == 3
    for low, high in itertools.pairwise(samples.starts):
        run = samples.points[low:high]
        step = np.linalg.norm(np.roll(run, -1, 0) - run, axis=1)
        assert (high - low) % 2 == 0
        assert step.max() <= SPACING * 1.1
    assert np.abs(np.hypot(*(samples.points[: samples.starts[1]] - [50, 60]).T) - 30).max() < 0.01


def test_directions_follow_the_line():
    samples = sample(closed(circle(50, 60, 30)))
    radial = (samples.points - [50, 60]) / 30
    directions = samples.directions(3)
    assert np.abs(np.einsum("ij,ij->i", radial, directions)).max() < 0.02
    assert np.linalg.norm(directions, axis=1) == pytest.approx(1)


def test_turning_adds_up_to_one_turn():
    samples = sample(closed(box(10, 10, 60, 40)))
    assert samples.turning(samples.directions(3)).sum() == pytest.approx(-2 * np.pi, abs=1e-6)


def test_calmed_samples_lose_a_staircase():
    stairs = np.repeat(np.arange(60), 2)
    upper = np.column_stack([np.roll(stairs, 0)[1:120], stairs[:119]])[::1]
    ring = np.concatenate([upper, [[60.0, 0.0]]])
    samples = sample(closed(ring.astype(float)))
    rough = np.abs(samples.turning(samples.directions(1))).sum()
    calm = calmed(samples, 2.0)
    assert np.abs(calm.turning(calm.directions(1))).sum() < 0.6 * rough


# Corners and segments


def test_corners_of_a_box_and_none_on_a_circle():
    samples = sample(closed(circle(50, 60, 30), box(100.3, 10.2, 160.7, 50.4)))
    corners = find_corners(samples, 0.5)
    assert len(corners.at) == 4
    truth = np.array([[100.3, 10.2], [100.3, 50.4], [160.7, 50.4], [160.7, 10.2]])
    away = np.linalg.norm(corners.position[:, None] - truth[None], axis=2).min(axis=0)
    assert away.max() < 0.1


def test_a_box_is_four_lines_and_a_circle_a_few_cubics():
    curves, cloud, begin = first_fit(closed(circle(50, 60, 30), box(100, 10, 160, 50)))
    curves = joined(settle(curves, cloud, 2))
    of_circle, of_box = curves.line == 0, curves.line == 1
    assert curves.straight[of_box].all()
    assert of_box.sum() == 4
    assert not curves.straight[of_circle].any()
    assert 3 <= of_circle.sum() <= 8
    assert len(begin) == len(curves)


@pytest.mark.parametrize("scale", [0.5, 1.0, 2.0])
def test_handles_of_a_quarter_circle(scale):
    angle = np.linspace(0, np.pi / 2, 40)
    data = 50 * scale * np.column_stack([np.cos(angle), np.sin(angle)])
    u = np.linspace(0, 1, 40)
    found = fit(data[0], np.array([0.0, 1]), data[-1], np.array([-1.0, 0]), data, u, 4)
    ideal = 50 * scale * 4 / 3 * np.tan(np.pi / 8)
    assert found[:2] == pytest.approx([ideal, ideal], rel=2e-3)
    assert found[2] < 0.02 * scale


def test_basis_is_a_partition_of_one():
    assert basis(np.linspace(0, 1, 11)).sum(axis=1) == pytest.approx(1)


# Curves


def ring_of_cubics(cx: float = 50.0, cy: float = 50.0, r: float = 30.0) -> Curves:
    angle = -np.pi / 2 * np.arange(4)
    node = np.column_stack([cx + r * np.cos(angle), cy + r * np.sin(angle)])
    handle = np.full((4, 2), r * 4 / 3 * np.tan(np.pi / 8))
    heading = angle - np.pi / 2
    none = np.zeros(4, bool)
    return Curves(node, heading, np.roll(heading, -1), handle, none, none, np.zeros(4, np.int64), none)


def test_curves_know_who_follows_whom():
    curves = together(
        ring_of_cubics(), Curves(*(_shifted(v, n) for n, v in vars(ring_of_cubics(200)).items() if n in FIELDS))
    )
    assert curves.following.tolist() == [1, 2, 3, 0, 5, 6, 7, 4]
    assert curves.before[curves.following].tolist() == list(range(8))
    assert chosen(curves, np.array([False, True])).line.tolist() == [1] * 4


FIELDS = ("node", "leaving", "arriving", "handles", "straight", "corner", "line", "void")


def _shifted(value, name: str):
    return value + 1 if name == "line" else value


def test_probes_lie_on_the_curve_with_normals_to_the_left():
    found = probes(ring_of_cubics(), 2.0, 8)
    radius = np.hypot(*(found.at - 50).T)
    assert radius == pytest.approx(30, abs=0.02)
    # Ink lies to the left of travel, which is inside.
    assert np.einsum("ij,ij->i", found.normal, found.at - 50).max() < 0


def test_edges_close_and_skip_what_is_void():
    curves = ring_of_cubics()
    outline = edges(curves, 0.01)
    assert np.array_equal(np.roll(outline.starts, -1, axis=0), outline.ends)
    opened = Curves(*(getattr(curves, f) if f != "void" else np.array([0, 0, 0, 1], bool) for f in FIELDS))
    assert np.linalg.norm(edges(opened, 0.01).ends[-1] - opened.node[3]) < 1e-12
    assert len(probes(opened, 2.0, 8).u) < len(probes(curves, 2.0, 8).u)


def test_contours_of_open_lines_stay_open():
    curves = ring_of_cubics()
    opened = Curves(*(getattr(curves, f) if f != "void" else np.array([0, 0, 0, 1], bool) for f in FIELDS))
    (contour,) = contours(opened, 1, (5.0, 0.0))
    assert not contour.closed
    assert len(contour) == 3
    assert contour.curves[0, 0] == pytest.approx([85, 50])


def test_turns_and_ties_at_lines():
    curves, cloud, _ = first_fit(closed(box(10, 10, 60, 40)))
    curves = joined(settle(curves, cloud, 1))
    assert turns(curves) == pytest.approx(np.pi / 2, abs=0.02)
    assert curves.corner.all()
    assert not np.any(tied(curves))


# The solver


@given(st.integers(1, 9), st.integers(0, 2**31 - 1))
def test_ring_solver_agrees_with_a_dense_one(count, seed):
    random = np.random.default_rng(seed)
    size = 6
    own = np.zeros((count, size, size))
    own[:, range(size), range(size)] = 0.5
    ahead, right = np.zeros((count, size, size)), np.zeros((count, size))
    dense, wanted = np.zeros((count * size,) * 2), np.zeros(count * size)
    dense[range(count * size), range(count * size)] = 0.5
    for _ in range(30):
        i = int(random.integers(count))
        j = (i + 1) % count
        one, two = random.normal(size=size), random.normal(size=size)
        weight, value = float(random.random() + 0.1), float(random.normal())
        rings.add_pair(own, ahead, right, i, j, one, two, weight, value)
        row = np.zeros(count * size)
        row[i * size : (i + 1) * size] += one
        row[j * size : (j + 1) * size] += two
        dense += weight * np.outer(row, row)
        wanted += weight * value * row
    found = rings.solve(own, ahead, right, np.array([0, count]))
    assert found.ravel() == pytest.approx(np.linalg.solve(dense, wanted), rel=1e-6, abs=1e-8)


def test_rings_are_solved_each_for_itself():
    own = np.tile(np.eye(6) * 2, (5, 1, 1))
    right = np.arange(30, dtype=float).reshape(5, 6)
    found = rings.solve(own, np.zeros((5, 6, 6)), right, np.array([0, 2, 5]))
    assert found == pytest.approx(right / 2)


# Coverage


@given(
    st.lists(st.tuples(st.floats(0, 12), st.floats(0, 9)), min_size=3, max_size=7),
)
def test_coverage_adds_up_to_the_area(points):
    ring = np.array(points)
    area = 0.5 * np.sum(ring[:, 1] * np.roll(ring[:, 0], -1) - ring[:, 0] * np.roll(ring[:, 1], -1))
    share = coverage(ring, np.roll(ring, -1, axis=0), 12, 9)
    assert share.sum() == pytest.approx(area, abs=1e-3)


def test_what_lies_left_of_the_picture_still_covers_it():
    ring = np.array([[-5.0, 1], [-5, 4], [3, 4], [3, 1]])
    share = coverage(ring, np.roll(ring, -1, axis=0), 8, 6)
    assert share[1:4, :3] == pytest.approx(1)
    assert share[:, 3:] == pytest.approx(0, abs=1e-6)


def test_colours_mix_by_coverage():
    ring = np.array([[2.5, 0], [2.5, 4], [6, 4], [6, 0]], float)
    steps = np.tile([[10.0, -20.0]], (4, 1))
    grid = mixed(ring, np.roll(ring, -1, axis=0), steps, 8, 4)
    assert grid[1, 2] == pytest.approx([5, -10])
    assert grid[1, 4] == pytest.approx([10, -20])


def test_reading_between_pixels_is_bilinear():
    field = np.arange(12, dtype=np.float32).reshape(3, 4)
    assert between(field, np.array([[1.5, 1.5], [2.0, 1.5], [1.5, 2.0]])) == pytest.approx([5, 5.5, 7])
    assert between(field, np.array([[-3.0, 1.0]])) == pytest.approx([0])


# Against the picture


def test_curves_move_onto_the_edge_that_the_picture_shows():
    truth = circle(50, 50, 30, 2000)
    field = coverage(truth, np.roll(truth, -1, axis=0), 100, 100)
    scene = InkScene(field, 0.5)
    curves = ring_of_cubics(50.4, 49.7, 29.6)
    for _ in range(3):
        curves = settle(curves, observed(curves, scene), 1)
    radius = np.hypot(*(probes(curves, 1.0, 8).at - 50).T)
    assert np.abs(radius - 30).max() < 0.04


@pytest.mark.parametrize("sigma", [0.6, 1.0, 2.0])
def test_blur_is_told_from_slopes(sigma):
    from scipy.special import erf

    sharp = float(erf(0.5 / (np.sqrt(2) * 0.4)))
    soft = float(erf(0.5 / (np.sqrt(2) * np.hypot(0.4, sigma))))
    assert blur_between(soft, sharp) == pytest.approx(sigma, rel=1e-6)
    assert blur_between(sharp, soft) == 0


def test_merging_takes_needless_nodes_away():
    ring = circle(80, 80, 60, 3000)
    curves, cloud, _ = first_fit(closed(ring), 0.03)
    before = settle(curves, cloud, 2)
    after = merged(before, cloud, 0.05)
    assert len(after) < len(before)
    assert np.abs(np.hypot(*(probes(after, 1, 8).at - 80).T) - 60).max() < 0.2


def test_exact_lines_come_back_as_fitted_contours():
    outer, hole = through(closed(circle(60, 60, 50, 2000), circle(60, 60, 20, 900)[::-1]), 0.05)
    assert -outer.area == pytest.approx(np.pi * 2500, rel=1e-3)
    assert hole.area == pytest.approx(np.pi * 400, rel=1e-3)
    assert len(outer) <= 16


# Tips


def test_open_lines_run_there_and_back():
    line = np.column_stack([np.linspace(0, 40, 60), np.zeros(60)])
    both = there_and_back([line, circle(80, 0, 10)], np.array([False, True]))
    samples = sample(both)
    tips = with_tips(find_corners(samples, 0.5), samples, np.array([False, True]))
    assert len(tips.at) == 2
    assert sorted(tips.position[:, 0]) == pytest.approx([0, 40], abs=1e-6)
    assert tips.after[0] == pytest.approx([1, 0], abs=1e-6)


# Nesting


def turned(points: np.ndarray) -> Contour:
    return polygon(points)


def test_holes_go_to_the_smallest_shape_that_holds_them():
    shapes = nested(
        [
            turned(circle(50, 50, 45)),
            turned(circle(50, 50, 35)[::-1]),
            turned(circle(50, 50, 25)),
            turned(circle(50, 50, 10)[::-1]),
            turned(circle(150, 50, 20)),
        ]
    )
    assert [len(s.holes) for s in shapes] == [1, 1, 0]
    assert [round(-s.outer.area) for s in shapes] == sorted((round(-s.outer.area) for s in shapes), reverse=True)
    assert [len(s.holes) for s in outer_only(shapes)] == [0, 0]


def test_what_runs_there_and_back_is_no_shape():
    flat = polygon(np.array([[0.0, 0], [10, 0], [5, 0]]))
    assert nested([flat]) == ()


def test_level_lines_keep_ink_on_the_left():
    field = np.zeros((20, 20), np.float32)
    field[5:15, 5:15] = 1
    field[8:12, 8:12] = 0
    lines = level_lines(field, 0.5)
    assert sorted(np.sign(lines.areas()).tolist()) == [-1, 1]
    assert place(ring_of_cubics(), np.zeros(1, np.int64), np.zeros(1), np.zeros(4, np.int64)).at[0] == pytest.approx(
        [80, 50]
    )
    assert unit(np.array([0.0])) == pytest.approx(np.array([[1.0, 0.0]]))


# Square ends


def test_thin_strokes_end_in_two_corners_and_round_ones_in_none():
    bar, pill = shapely.box(10.3, 10.4, 13.5, 40.3), shapely.LineString([(30, 12), (30, 38)]).buffer(1.5, quad_segs=32)
    leaning = shapely.affinity.rotate(shapely.box(50, 10, 53, 42), 27)
    found = {}
    for name, shape in (("bar", bar), ("pill", pill), ("leaning", leaning)):
        big = np.zeros((50 * 16, 70 * 16), np.uint8)
        ring = np.round(np.array(shape.exterior.coords) * 16 - 0.5).astype(np.int32)
        cv2.fillPoly(big, [ring], 255)
        grey = 255 - cv2.resize(big, (70, 50), interpolation=cv2.INTER_AREA)
        _, png = cv2.imencode(".png", grey)
        (outline,) = trace_ink(decode(png.tobytes()), InkSettings()).outlines
        found[name] = corner_nodes(outline.contours)
    for name, shape in (("bar", bar), ("leaning", leaning)):
        true = np.array(shape.exterior.coords)[:-1]
        away = np.linalg.norm(found[name][:, None] - true[None], axis=2).min(axis=0)
        assert len(found[name]) == 4, name
        assert away.max() < 0.4, name
    assert len(found["pill"]) == 0


def test_noise_with_specks_of_a_pixel_is_traced():
    for seed in range(25):
        random = np.random.default_rng(seed)
        side = int(random.integers(24, 64))
        grey = cv2.GaussianBlur(random.uniform(0, 255, (side, side)), (0, 0), float(random.uniform(0.6, 2)))
        grey = np.where(grey > np.median(grey), 255, 0).astype(np.uint8)
        _, png = cv2.imencode(".png", grey)
        for outline in trace_ink(decode(png.tobytes()), InkSettings(speck=0)).outlines:
            assert all(np.isfinite(c.curves).all() for c in outline.contours)
