"""Middle lines as a graph, and strokes from it."""

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.trace.strokes.skeleton import skeleton
from drelo.core.trace.strokes.strokes import StrokeSettings, trace_strokes
from tests.refusals import refused


def sheet(width: int = 200, height: int = 160) -> np.ndarray:
    return np.zeros((height * 8, width * 8), np.uint8)


def line(big: np.ndarray, width: float, *points: tuple[float, float], closed: bool = False) -> np.ndarray:
    """A stroke of exact width drawn eight times as large."""
    run = shapely.LinearRing(points) if closed else shapely.LineString(points)
    band = shapely.buffer(run, width / 2, quad_segs=24)
    for part in shapely.get_parts(band):
        rings = [np.round(shapely.get_coordinates(r) * 8).astype(np.int32) for r in shapely.get_rings(part)]
        own = np.zeros_like(big)
        cv2.fillPoly(own, rings, 255)
        big |= own
    return big


def picture(big: np.ndarray) -> Picture:
    grey = 255 - big.reshape(big.shape[0] // 8, 8, big.shape[1] // 8, 8).mean(axis=(1, 3))
    rgb = np.repeat(np.round(grey)[..., None], 3, axis=2).astype(np.uint8)
    return Picture(rgb, None, None, "image/png")


def mask(big: np.ndarray) -> np.ndarray:
    return picture(big).rgb[..., 0] < 128


def test_a_line_is_one_free_run():
    bones = skeleton(mask(line(sheet(), 6, (20, 80), (180, 80))))
    assert [(r.start, r.end) for r in bones.runs] == [(-1, -1)]
    assert bones.radius_at(np.array([[100.0, 80.0]]))[0] == pytest.approx(3, abs=0.6)


def test_a_loop_is_one_closed_run():
    angle = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    ring = [(100 + 50 * np.cos(a), 80 + 50 * np.sin(a)) for a in angle]
    bones = skeleton(mask(line(sheet(), 6, *ring, closed=True)))
    assert [(r.start, r.end) for r in bones.runs] == [(-2, -2)]


def test_a_t_has_one_joint_of_three_runs():
    big = line(line(sheet(), 6, (20, 40), (180, 40)), 6, (100, 40), (100, 140))
    bones = skeleton(mask(big))
    assert len(bones.runs) == 3
    joints = [j for r in bones.runs for j in (r.start, r.end) if j >= 0]
    assert len(set(joints)) == 1
    assert len(joints) == 3


@pytest.mark.parametrize("turn", [45, 71, 90])
def test_a_crossing_has_one_joint_of_four_runs(turn):
    angle = np.radians(turn)
    away = np.array([60 * np.cos(angle), 60 * np.sin(angle)])
    big = line(line(sheet(), 5, (30, 80), (170, 80)), 5, (100 - away[0], 80 - away[1]), (100 + away[0], 80 + away[1]))
    bones = skeleton(mask(big))
    joints = {j for r in bones.runs for j in (r.start, r.end) if j >= 0}
    assert len(bones.runs) == 4
    assert len(joints) == 1


def test_bumps_on_a_line_make_no_spurs():
    big = line(sheet(), 10, (20, 80), (180, 80))
    for x in (50, 90, 130):
        big = line(big, 3, (x, 74), (x, 72))
    assert len(skeleton(mask(big)).runs) == 1


# Strokes


def strokes(big: np.ndarray, **settings):
    return trace_strokes(picture(big), StrokeSettings(**settings)).lines


@pytest.mark.parametrize("width", [2.5, 5, 9, 16])
def test_a_stroke_has_its_width_and_its_middle(width):
    (found,) = strokes(line(sheet(), width, (30, 50), (170, 110)))
    assert found.width == pytest.approx(width, abs=0.15)
    assert found.cap == "round"
    run = shapely.LineString([(30, 50), (170, 110)])
    points = shapely.points(found.contour.flattened(0.01))
    assert shapely.distance(points, run).max() < 0.25
    ends = np.sort(found.contour.flattened(0.01)[[0, -1], 0])
    assert ends == pytest.approx([30, 170], abs=0.6)


def test_two_crossing_strokes_go_straight_on():
    big = line(line(sheet(), 5, (30, 30), (170, 130)), 5, (30, 130), (170, 30))
    found = strokes(big)
    assert len(found) == 2
    for stroke in found:
        points = stroke.contour.flattened(0.01)
        assert np.abs(points[-1] - points[0]) == pytest.approx([140, 100], abs=1)


def test_a_branch_ends_on_the_stroke_it_meets():
    big = line(line(sheet(), 5, (20, 40), (180, 40)), 5, (100, 40), (100, 140))
    found = sorted(strokes(big), key=lambda s: -np.ptp(s.contour.flattened(0.1)[:, 0]))
    assert len(found) == 2
    branch = found[1].contour.flattened(0.01)
    nearest = branch[np.argmin(branch[:, 1])]
    assert nearest == pytest.approx([100, 40], abs=0.3)


def test_dashes_stay_apart():
    big = sheet()
    for x in range(20, 180, 30):
        big = line(big, 4, (x, 80), (x + 14, 80))
    found = strokes(big)
    assert len(found) == 6
    assert all(len(s.contour) == 1 for s in found)


def test_a_corner_stays_a_corner():
    (found,) = strokes(line(sheet(), 6, (30, 40), (120, 40), (120, 130)))
    nodes = np.vstack([found.contour.curves[:, 0], found.contour.curves[-1:, 3]])
    assert np.linalg.norm(nodes - [120, 40], axis=1).min() < 0.6
    assert len(found.contour) <= 4


def test_a_drawn_loop_closes():
    angle = np.linspace(0, 2 * np.pi, 80, endpoint=False)
    ring = [(100 + 60 * np.cos(a), 80 + 40 * np.sin(a)) for a in angle]
    (found,) = strokes(line(sheet(), 5, *ring, closed=True))
    assert found.contour.closed
    assert abs(found.contour.area) == pytest.approx(np.pi * 60 * 40, rel=5e-3)
    assert len(found.contour) <= 10


def distance(found, *truth: tuple[tuple[float, float], ...]) -> float:
    """How far (px) any point of the middle lines lies from any of the true ones."""
    lines = shapely.MultiLineString([shapely.LineString(points) for points in truth])
    points = np.concatenate([li.contour.flattened(0.05) for li in found])
    return float(shapely.distance(shapely.points(points), lines).max())


@pytest.mark.parametrize("angle", [10, 14, 20, 30])
@pytest.mark.parametrize("width", [4, 8])
def test_strokes_that_leave_a_joint_at_a_narrow_angle_stay_on_their_own_middle(width, angle):
    turn = np.radians(angle)
    through, branch = ((15, 120), (185, 120)), ((50, 120), (50 + 130 * np.cos(turn), 120 - 130 * np.sin(turn)))
    found = strokes(line(line(sheet(), width, *through), width, *branch))
    assert len(found) == 2
    assert distance(found, through, branch) < 1
    assert [li.width for li in found] == pytest.approx([width, width], abs=0.3)


@pytest.mark.parametrize("width", [10, 14, 18])
def test_a_straight_stroke_is_led_on_straight_over_many_widths(width):
    """Over five of its widths its ink is one with that of the stroke it ends on."""
    turn = np.radians(12)
    through, branch = ((15, 140), (485, 140)), ((100, 140), (100 + 380 * np.cos(turn), 140 - 380 * np.sin(turn)))
    found = strokes(line(line(sheet(500), width, *through), width, *branch))
    assert len(found) == 2
    assert distance(found, through, branch) < 0.4


@pytest.mark.parametrize("apart", [12, 18, 30])
def test_crossings_close_to_each_other_keep_their_strokes(apart):
    one, other = ((30, 20), (150, 140)), ((30 + apart * 2**0.5, 20), (150 + apart * 2**0.5, 140))
    across = ((150, 30), (50, 130))
    big = sheet()
    for points in (one, other, across):
        line(big, 7, *points)
    found = strokes(big)
    assert len(found) == 3
    assert distance(found, one, other, across) < 0.3


@pytest.mark.parametrize("angle", [50, 75, 90])
@pytest.mark.parametrize("join", ["round", "mitre"])
def test_a_narrow_corner_is_one_node_of_one_stroke(angle, join):
    half = np.radians(angle / 2)
    arms = [(40 + 120 * np.cos(half), 80 + s * 120 * np.sin(half)) for s in (1, -1)]
    run = (arms[0], (40.0, 80.0), arms[1])
    band = shapely.buffer(shapely.LineString(run), 4, join_style=join, quad_segs=24, mitre_limit=5)
    big = sheet(260, 240)
    cv2.fillPoly(big, [np.round((shapely.get_coordinates(band.exterior) + 30) * 8).astype(np.int32)], 255)
    found = strokes(big)
    assert len(found) == 1
    assert len(found[0].contour.curves) == 2
    assert found[0].contour.curves[1, 0] == pytest.approx([70, 110], abs=0.3)
    assert found[0].join == join


@st.composite
def jumbles(draw):
    """Straight and bent strokes anywhere on the sheet, over each other as they come."""
    place = st.tuples(st.integers(10, 190), st.integers(10, 150))
    width = draw(st.sampled_from([3.0, 5.0, 9.0]))
    return width, draw(st.lists(st.lists(place, min_size=2, max_size=3, unique=True), min_size=1, max_size=5))


@settings(max_examples=25, deadline=None)
@given(jumbles())
def test_middle_lines_never_leave_the_ink(drawn):
    width, runs = drawn
    big = sheet()
    for points in runs:
        line(big, width, *points)
    ink = shapely.union_all([shapely.buffer(shapely.LineString(points), width / 2 + 1) for points in runs])
    for traced in strokes(big):
        points = traced.contour.flattened(0.05)
        run = shapely.LineString(np.concatenate([points, points[:1]]) if traced.contour.closed else points)
        assert shapely.length(shapely.difference(run, ink)) < 1


def test_outlines_cover_what_the_strokes_cover():
    big = line(line(sheet(), 6, (30, 30), (170, 130)), 6, (30, 130), (170, 30))
    trace = trace_strokes(picture(big), StrokeSettings())
    covered = sum(o.area for o in trace.outlines)
    assert len(trace.outlines) == 1
    assert covered == pytest.approx(big.astype(float).sum() / 255 / 64, rel=0.01)


def test_one_width_for_all_is_the_width_of_all():
    big = line(line(sheet(), 4, (20, 40), (180, 40)), 9, (20, 110), (180, 110))
    trace = trace_strokes(picture(big), StrokeSettings(width=6.5))
    assert {s.width for s in trace.lines} == {6.5}
    heights = [o.outer.bounds[3] - o.outer.bounds[1] for o in trace.outlines]
    assert heights == pytest.approx([6.5, 6.5], abs=0.1)


def test_specks_make_no_strokes():
    big = line(sheet(), 5, (30, 80), (170, 80))
    big = line(big, 2, (60, 30), (60.2, 30))
    assert len(strokes(big)) == 1


def test_an_empty_sheet_is_refused():
    with refused("all of one tone"):
        strokes(sheet())


@pytest.mark.parametrize(
    ("settings", "field"),
    [
        ({"level": 2}, "level"),
        ({"speck": -1}, "speck"),
        ({"smooth": 5}, "smooth"),
        ({"width": 0}, "width"),
        ({"keen": 9}, "keen"),
    ],
)
def test_settings_out_of_range_name_their_field(settings, field):
    with pytest.raises(Refusal) as refusal:
        strokes(line(sheet(), 5, (30, 80), (170, 80)), **settings)
    assert refusal.value.field == field
