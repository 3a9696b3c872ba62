"""Middle lines as a graph, and strokes from it."""

import cv2
import numpy as np
import pytest
import shapely

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.trace.skeleton import skeleton
from drelo.core.trace.strokes import StrokeSettings, trace_strokes


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
    with pytest.raises(Refusal, match="all of one tone"):
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
