"""Every mode on any picture: outlines that close, or a plain refusal."""

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.trace.colours.colours import ColourSettings, trace_colours
from drelo.core.trace.ink import InkSettings, trace_ink
from drelo.core.trace.modes import trace
from drelo.core.trace.seen.coverage import coverage
from drelo.core.trace.strokes.strokes import StrokeSettings, trace_strokes
from tests.refusals import refused


def picture(rgb: np.ndarray, alpha: np.ndarray | None = None) -> Picture:
    return Picture(np.ascontiguousarray(rgb.astype(np.uint8)), alpha, None, "image/png")


@st.composite
def pictures(draw) -> Picture:
    random = np.random.default_rng(draw(st.integers(0, 2**32 - 1)))
    height, width = draw(st.integers(4, 90)), draw(st.integers(4, 90))
    rgb = np.empty((height, width, 3), np.uint8)
    rgb[:] = random.integers(0, 256, 3)
    for _ in range(draw(st.integers(0, 8))):
        colour = tuple(int(v) for v in random.integers(0, 256, 3))
        points = random.integers(-10, 100, (4, 2))
        thick = int(random.integers(1, 10))
        if random.random() < 0.5:
            cv2.fillPoly(rgb, [points.astype(np.int32)], colour, cv2.LINE_AA)
        else:
            cv2.line(rgb, tuple(map(int, points[0])), tuple(map(int, points[1])), colour, thick, cv2.LINE_AA)
    noise = draw(st.sampled_from([0.0, 0.0, 4.0, 25.0]))
    rgb = np.clip(rgb + random.normal(0, 1, rgb.shape) * noise, 0, 255)
    return picture(rgb)


SETTINGS = [
    InkSettings(),
    InkSettings(level=0.3, invert=True, smooth=1.0, speck=0),
    InkSettings(silhouette=True, keen=1.0),
    ColourSettings(),
    ColourSettings(4, background="none", smooth=0.0, speck=0),
    StrokeSettings(),
    StrokeSettings(width=3.0, keen=0.0),
]


@settings(max_examples=30, deadline=None)
@given(picture=pictures(), chosen=st.sampled_from(SETTINGS))
def test_any_picture_traces_or_is_refused(picture, chosen):
    try:
        found = trace(picture, chosen)
    except Refusal:
        return
    assert found.outlines
    for outline in found.outlines:
        for contour in outline.contours:
            assert np.isfinite(contour.curves).all()
            assert np.array_equal(contour.curves[:, 3], np.roll(contour.curves[:, 0], -1, axis=0))
    for line in found.lines:
        assert line.width > 0
        assert np.isfinite(line.contour.curves).all()


def flag() -> np.ndarray:
    """Three upright bands on white, touching, two of them running off the picture."""
    rgb = np.full((120, 200, 3), 255, np.uint8)
    for k, colour in enumerate([(200, 40, 40), (40, 160, 60), (40, 60, 200)]):
        rgb[20:, 20 + 50 * k : 70 + 50 * k] = colour
    return rgb


def test_bands_meet_exactly_and_close_along_the_border():
    found = trace_colours(picture(flag()), ColourSettings())
    assert sorted(found.fills) == ["#283cc8", "#28a03c", "#c82828"]
    areas = [o.flattened(0.001) for o in found.outlines]
    assert sum(a.area for a in areas) == pytest.approx(150 * 100, rel=2e-3)
    assert shapely.union_all(areas).area == pytest.approx(sum(a.area for a in areas), abs=1e-9)
    assert max(a.bounds[3] for a in areas) == 120


def test_background_can_be_named_or_kept():
    assert "#ffffff" not in trace_colours(picture(flag()), ColourSettings()).fills
    kept = trace_colours(picture(flag()), ColourSettings(background="none"))
    assert "#ffffff" in kept.fills
    assert sum(o.area for o in kept.outlines) == pytest.approx(200 * 120, rel=1e-9)
    red = trace_colours(picture(flag()), ColourSettings(background="#c82828"))
    assert "#c82828" not in red.fills
    assert next(s for s in red.swatches if s.background).colour == "#c82828"


def test_colours_of_a_group_count_as_one():
    palette = (("#ffffff",), ("#c82828", "#28a03c"), ("#283cc8",))
    found = trace_colours(picture(flag()), ColourSettings(palette=palette))
    assert sorted(found.fills) == ["#283cc8", "#c82828"]
    assert max(o.area for o in found.outlines) == pytest.approx(100 * 100, rel=5e-3)


def test_an_enclosed_area_of_the_background_is_a_hole():
    rgb = np.full((100, 100, 3), 255, np.uint8)
    cv2.circle(rgb, (50, 50), 40, (30, 90, 160), -1, cv2.LINE_AA)
    cv2.circle(rgb, (50, 50), 15, (255, 255, 255), -1, cv2.LINE_AA)
    found = trace_colours(picture(rgb), ColourSettings())
    assert [len(o.holes) for o in found.outlines] == [1]


def test_see_through_is_background():
    rgb = np.full((80, 80, 3), 255, np.uint8)
    alpha = np.zeros((80, 80), np.uint8)
    cv2.circle(rgb, (40, 40), 30, (255, 255, 255), -1)
    cv2.circle(alpha, (40, 40), 30, 255, -1, cv2.LINE_AA)
    rgb[30:50, 30:50] = (10, 10, 10)
    found = trace_colours(picture(rgb, alpha), ColourSettings())
    assert sorted(found.fills) == ["#0a0a0a", "#ffffff"]


def test_the_number_of_colours_is_kept_to():
    rgb = flag()
    assert len(trace_colours(picture(rgb), ColourSettings(2)).swatches) == 2
    with refused("between 2 and 24"):
        trace_colours(picture(rgb), ColourSettings(25))


def test_only_the_silhouette_drops_what_is_inside():
    rgb = np.full((100, 100, 3), 255, np.uint8)
    cv2.circle(rgb, (50, 50), 40, (0, 0, 0), -1, cv2.LINE_AA)
    cv2.circle(rgb, (50, 50), 25, (255, 255, 255), -1, cv2.LINE_AA)
    cv2.circle(rgb, (50, 50), 10, (0, 0, 0), -1, cv2.LINE_AA)
    assert len(trace_ink(picture(rgb), InkSettings()).outlines) == 2
    only = trace_ink(picture(rgb), InkSettings(silhouette=True)).outlines
    assert [len(o.holes) for o in only] == [0]
    assert only[0].area == pytest.approx(np.pi * 40.5**2, rel=0.02)


def test_uneven_light_leaves_the_outline_where_it_is():
    rgb = np.full((200, 300, 3), 240.0)
    cv2.circle(rgb, (90, 100), 50, (30, 30, 30), -1, cv2.LINE_AA)
    cv2.circle(rgb, (220, 100), 50, (30, 30, 30), -1, cv2.LINE_AA)
    even = trace_ink(picture(rgb), InkSettings())
    lit = trace_ink(picture(rgb * np.linspace(1.0, 0.45, 300)[None, :, None]), InkSettings())
    assert [o.area for o in lit.outlines] == pytest.approx([o.area for o in even.outlines], rel=5e-3)


def test_strokes_keep_their_own_width_or_take_one_for_all():
    rgb = np.full((120, 160, 3), 255, np.uint8)
    cv2.line(rgb, (20, 40), (140, 40), (0, 0, 0), 5, cv2.LINE_AA)
    cv2.line(rgb, (20, 90), (140, 90), (0, 0, 0), 9, cv2.LINE_AA)
    own = trace_strokes(picture(rgb), StrokeSettings())
    inked = [(255.0 - rgb[rows, 80, 0]).sum() / 255 for rows in (slice(0, 65), slice(65, 120))]
    assert sorted(line.width for line in own.lines) == pytest.approx(inked, abs=0.1)
    assert {line.width for line in trace_strokes(picture(rgb), StrokeSettings(width=4)).lines} == {4.0}


def test_coverage_is_the_area_in_every_pixel():
    ring = np.array([[1.25, 1.5], [1.25, 4.0], [5.75, 4.0], [5.75, 1.5]])
    share = coverage(ring, np.roll(ring, -1, axis=0), 8, 6)
    assert share.sum() == pytest.approx(4.5 * 2.5)
    assert share[1, 1] == pytest.approx(0.75 * 0.5)
    assert share[2, 3] == pytest.approx(1)
    assert share[4:].max() == pytest.approx(0)
