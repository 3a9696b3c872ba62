"""No trace leaves unchecked: whatever the picture, nothing crosses or touches, and what is off is said."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
import shapely
from benchmarks.tracing import linework, render
from benchmarks.tracing.truth import truths

from drelo.core.errors import Refusal
from drelo.core.outline.chords import chords_of, distances, grid_of, meetings
from drelo.core.outline.contour import Contour, flattened, polygon
from drelo.core.picture.decode import decode
from drelo.core.trace.check.homeward import near_home
from drelo.core.trace.check.mending import mended
from drelo.core.trace.modes import Settings, trace
from drelo.core.trace.settings import ColourSettings, InkSettings, StrokeSettings
from drelo.core.trace.trace import Trace
from tests.core import hostile

MODES = {"ink": InkSettings(), "colours": ColourSettings(), "strokes": StrokeSettings()}


def crossings(found: Trace, shared: bool) -> int:
    """Places where outlines cross or touch, by segments where neighbours share them."""
    contours = [c for o in found.outlines for c in o.contours]
    if not shared:
        return len(meetings(grid_of(chords_of(flattened(contours, 0.002), [True] * len(contours)))))
    seen: dict[bytes, Contour] = {}
    for segment in np.concatenate([c.curves for c in contours]):
        way = segment if tuple(segment[0]) <= tuple(segment[3]) else segment[::-1]
        seen[np.round(way, 6).tobytes()] = Contour(way[None], np.zeros(1, bool), False)
    flat = flattened(list(seen.values()), 0.002)
    return len(meetings(grid_of(chords_of(flat, [False] * len(flat))), at_ends=True))


def traced(data: bytes, settings: Settings) -> Trace | None:
    try:
        return trace(decode(data), settings)
    except Refusal:
        return None


@pytest.mark.parametrize("how", ["clean", "1-bit", "jpeg", "blur", "noise"])
@pytest.mark.parametrize("name", hostile.PICTURES)
def test_nothing_crosses_in_hostile_pictures(name, how):
    data = hostile.spoilt(hostile.PICTURES[name](110), how)
    for mode, settings in MODES.items():
        found = traced(data, settings)
        if found is None:
            continue
        assert found.check is not None, mode
        assert found.check.crossings == 0, mode
        assert crossings(found, mode == "colours") == 0, mode


@pytest.mark.parametrize("condition", render.CONDITIONS)
def test_ordinary_pictures_are_true_within_a_pixel_and_a_half(condition):
    for sheet in truths():
        outlines, width, height = sheet.fitted(150)
        found = trace(decode(render.CONDITIONS[condition](render.coverage(outlines, width, height))), InkSettings())
        assert found.check is not None
        assert (found.check.crossings, found.check.off) == (0, ())
        assert found.check.furthest < 1.5
        assert found.check.mean < 0.2


def test_strokes_are_held_against_the_ink():
    for drawing in linework.all_linework():
        placed, width, height = drawing.fitted(300)
        found = trace(decode(render.clean(placed.cover(width, height))), StrokeSettings())
        assert found.check is not None
        assert found.check.crossings == 0
        assert found.check.mean < 0.15


def test_what_strokes_do_not_keep_of_bold_drawings_is_said_and_where():
    grey = np.full((700, 700), 255, np.uint8)
    cv2.ellipse(grey, (350, 350), (300, 270), 0, 0, 360, 0, 40, cv2.LINE_AA)
    found = trace(decode(cv2.imencode(".png", grey)[1].tobytes()), StrokeSettings())
    assert found.check is not None
    assert found.check.off == ()
    # A pen that draws thinner by less than a fifth to either side, but by more than anyone overlooks.
    cv2.ellipse(grey, (350, 350), (300, 270), 0, 64, 76, 255, 46, cv2.LINE_AA)
    cv2.ellipse(grey, (350, 350), (300, 270), 0, 60, 80, 0, 28, cv2.LINE_AA)
    found = trace(decode(cv2.imencode(".png", grey)[1].tobytes()), StrokeSettings())
    assert found.check is not None
    assert len(found.check.off) > 0
    assert all(np.hypot(x - 449, y - 605) < 120 for x, y, _ in found.check.off)


def test_a_contour_that_ran_away_is_brought_home():
    square = np.array([[0, 0], [40, 0], [40, 40], [0, 40]], float)
    home = shapely.get_coordinates(shapely.segmentize(shapely.LinearRing(square), 1.0))[:-1]
    curves = polygon(square).curves.copy()
    curves[1, 1:3] = [[140, 10], [140, 30]]
    runaway = Contour(curves, np.array([True, False, True, True]))
    (found,), check = mended([runaway], [home], 0.0)
    assert check.again == 1
    assert check.furthest < 0.6
    assert shapely.hausdorff_distance(shapely.LinearRing(found.flattened(0.01)), shapely.LinearRing(square)) < 1.5
    # What was right stays as it was.
    assert found.curves[0] == pytest.approx(runaway.curves[0]) or found.curves[-1] == pytest.approx(runaway.curves[-1])


def test_contours_that_cross_are_parted_where_they_do():
    t = np.linspace(0, 2 * np.pi, 80, endpoint=False)
    ring = np.stack([np.cos(t), np.sin(t)], axis=1)
    homes = [20 * ring + 30, 18.6 * ring[::-1] + 30]
    wild = [polygon(h[::4] * np.array([1, 1]) + (i * np.array([1.8, 0]))) for i, h in enumerate(homes)]
    assert len(meetings(grid_of(chords_of(flattened(wild, 0.01), [True, True]))))
    found, check = mended(wild, homes, 0.0)
    assert check.crossings == 0
    assert not shapely.LinearRing(found[0].flattened(0.01)).intersects(shapely.LinearRing(found[1].flattened(0.01)))


def test_what_cannot_be_mended_leads_the_rough_spots():
    # A home that crosses itself leaves no way out.
    eight = np.array([[0, 0], [20, 20], [20, 0], [0, 20]], float)
    home = shapely.get_coordinates(shapely.segmentize(shapely.LinearRing(eight), 1.0))[:-1]
    _, check = mended([polygon(eight)], [home], 0.0)
    assert check.crossings >= 1


def test_meetings_are_those_that_shapely_finds():
    random = np.random.default_rng(5)
    for _ in range(20):
        lines = [random.uniform(0, 30, (12, 2)) for _ in range(4)]
        found = meetings(grid_of(chords_of(lines, [False] * 4)))
        pairs = {(min(a, b), max(a, b)) for a, b in zip(found.one.tolist(), found.other.tolist(), strict=True)}
        shapes = [shapely.LineString(line) for line in lines]
        wanted = {(i, j) for i in range(4) for j in range(i + 1, 4) if shapes[i].intersects(shapes[j])}
        wanted |= {(i, i) for i in range(4) if not shapes[i].is_simple}
        assert pairs == wanted
        for i, j, at in zip(found.one, found.other, found.at, strict=True):
            assert shapely.Point(at).distance(shapes[i]) < 1e-9
            assert shapely.Point(at).distance(shapes[j]) < 1e-9


def test_lines_that_only_share_their_ends_do_not_meet():
    star = [np.array([[0, 0], [np.cos(a), np.sin(a)]]) for a in np.linspace(0, 5, 6)]
    grid = grid_of(chords_of(star, [False] * 6))
    assert len(meetings(grid, at_ends=True)) == 0
    assert len(meetings(grid)) == 15
    back = [np.array([[0.0, 0.0], [4.0, 0.0], [2.0, 0.0]])]
    assert len(meetings(grid_of(chords_of(back, [False])))) == 1


def test_distances_are_to_the_own_line():
    lines = [np.array([[0.0, 0.0], [10.0, 0.0]]), np.array([[0.0, 3.0], [10.0, 3.0]])]
    grid = grid_of(chords_of(lines, [False, False]))
    points = np.array([[5.0, 1.0], [5.0, 1.0], [12.0, 0.0], [5.0, 40.0]])
    assert distances(grid, points, np.array([0, 1, 0, 0]), 6.0) == pytest.approx([1.0, 2.0, 2.0, 6.0])


def test_a_contour_is_led_home_only_near_its_spots():
    t = np.linspace(0, 2 * np.pi, 200, endpoint=False)
    home = 30 * np.stack([np.cos(t), np.sin(t)], axis=1)
    corners = polygon(home[::25])
    led = near_home(corners, home, np.array([[30.0, 0.0]]), 5.0)
    ring = shapely.LinearRing(led.flattened(0.01))
    assert ring.is_simple
    assert shapely.Point(30, 0).distance(ring) < 1e-6
    assert shapely.Point(-21.2, -21.2).distance(ring) < 0.1
    assert shapely.Point(-27.7, 11.5).distance(ring) > 1.5


def test_gaps_that_a_blur_closed_stay_true_to_the_picture():
    grey = np.full((80, 120), 255, np.uint8)
    cv2.rectangle(grey, (20, 20), (56, 60), 0, -1)
    cv2.rectangle(grey, (59, 20), (100, 60), 0, -1)
    found = trace(decode(cv2.imencode(".png", cv2.GaussianBlur(grey, (0, 0), 1.0))[1].tobytes()), InkSettings())
    assert found.check is not None
    assert found.check.furthest < 1.5
    assert crossings(found, False) == 0
