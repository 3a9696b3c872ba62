"""Line drawings of thick beside thin pens: each stroke with its own width, none lost, none bent."""

from __future__ import annotations

from itertools import pairwise

import cv2
import numpy as np
import pytest
from benchmarks.tracing import mixed, render
from benchmarks.tracing.measure import score_mixed

from drelo.core.picture.decode import decode
from drelo.core.trace.settings import StrokeSettings
from drelo.core.trace.strokes.pens import by_pen
from drelo.core.trace.strokes.strokes import trace_strokes
from drelo.core.trace.trace import Trace


def traced(grey: np.ndarray) -> Trace:
    return trace_strokes(decode(cv2.imencode(".png", grey)[1].tobytes()), StrokeSettings())


def drawn(*lines: tuple[tuple[int, int], tuple[int, int], int], size: tuple[int, int] = (220, 160)) -> np.ndarray:
    """Lines (from, to, width), px, averaged down from a picture four times as large."""
    large = np.full((size[1] * 4, size[0] * 4), 255, np.uint8)
    for one, other, width in lines:
        (x0, y0), (x1, y1) = (np.array(one) * 4).tolist(), (np.array(other) * 4).tolist()
        half = 2 * width
        if x0 == x1:
            cv2.rectangle(large, (x0 - half, min(y0, y1)), (x0 + half - 1, max(y0, y1)), 0, -1)
        elif y0 == y1:
            cv2.rectangle(large, (min(x0, x1), y0 - half), (max(x0, x1), y0 + half - 1), 0, -1)
        else:
            cv2.line(large, (x0, y0), (x1, y1), 0, 4 * width)
    return np.asarray(cv2.resize(large, size, interpolation=cv2.INTER_AREA), np.uint8)


@pytest.mark.parametrize("condition", ["clean", "1-bit", "noise"])
@pytest.mark.parametrize("sheet", [mixed.plan, mixed.circuit, mixed.town_map, mixed.hatched])
def test_drawings_of_mixed_pens_keep_every_stroke(sheet, condition):
    fitted, width, height = sheet().fitted(700)
    spoil = {"clean": render.clean, "1-bit": render.one_bit, "noise": render.noisy}[condition]
    score = score_mixed(trace_strokes(decode(spoil(fitted.cover(width, height))), StrokeSettings()).lines, fitted.lines)
    assert score.mean <= (0.3 if condition == "1-bit" else 0.1)
    assert score.most <= 1.3
    if condition != "1-bit":
        assert score.kept >= 0.93
        assert score.width <= 0.3


def test_a_house_on_the_line_of_the_ground_keeps_its_floor_and_the_ground():
    found = traced(
        drawn(
            ((20, 107), (200, 107), 8),
            ((60, 100), (110, 100), 8),
            ((60, 40), (60, 104), 8),
            ((110, 40), (110, 104), 8),
            ((56, 40), (114, 40), 8),
        )
    )
    ground = max(found.lines, key=lambda line: np.ptp(line.contour.curves[..., 0]))
    assert np.abs(ground.contour.curves[..., 1] - 107).max() < 0.2
    floor = min(found.lines, key=lambda line: np.abs(line.contour.curves[..., 1] - 100).max())
    assert np.abs(floor.contour.curves[..., 1] - 100).max() < 1
    assert floor.width > 6
    ink = sum(outline.area for outline in found.outlines)
    assert abs(ink) == pytest.approx(180 * 8 + 58 * 8 + 2 * 55 * 8 + 50 * 7, rel=0.02)


def test_the_childs_house_stands_on_its_ground_and_bends_neither():
    fitted, width, height = mixed.childs_drawing().fitted(1000)
    for spoil in (render.clean, render.jpeg_75):
        score = score_mixed(
            trace_strokes(decode(spoil(fitted.cover(width, height))), StrokeSettings()).lines, fitted.lines
        )
        assert score.most <= 0.3
        assert score.kept >= 0.995


@pytest.mark.parametrize("spoil", [render.noisy, render.blurred_a_little])
def test_hairlines_under_noise_and_blur_stay_whole_and_have_their_width(spoil):
    fitted, width, height = mixed.pens().fitted(1000)
    found = trace_strokes(decode(spoil(fitted.cover(width, height))), StrokeSettings())
    score = score_mixed(found.lines, fitted.lines)
    assert len(found.lines) <= 1.2 * len(fitted.lines)
    assert score.kept >= 0.99
    assert score.most <= 0.3
    assert score.widest <= 0.1


@pytest.mark.parametrize("sheet", [mixed.childs_drawing, mixed.town_map])
def test_strokes_without_antialiasing_lie_on_their_ink(sheet):
    """A wall is a pixel wider on one side than on the other, and a railway ends on a road at a small angle."""
    fitted, width, height = sheet().fitted(1000)
    score = score_mixed(
        trace_strokes(decode(render.one_bit(fitted.cover(width, height))), StrokeSettings()).lines, fitted.lines
    )
    assert score.most <= 0.6
    assert score.widest <= 0.5
    assert score.kept >= 0.98


def test_a_stroke_of_one_pixel_without_antialiasing_is_one_pixel_wide():
    grey = np.full((60, 200), 255, np.uint8)
    grey[30, 20:180] = 0
    grey[20:45, 60:63] = 0
    found = min(traced(grey).lines, key=lambda line: line.width)
    assert found.width == pytest.approx(1.0, abs=0.15)


def test_a_stroke_that_crosses_another_at_a_small_angle_stays_on_its_line():
    found = traced(drawn(((20, 60), (200, 100), 7), ((20, 100), (200, 60), 7)))
    assert len(found.lines) == 2
    for line in found.lines:
        ends = line.contour.curves[0, 0], line.contour.curves[-1, 3]
        assert abs(ends[0][1] - ends[1][1]) > 30


def test_the_filled_head_of_a_note_is_not_lost():
    large = np.full((480, 480), 255, np.uint8)
    for line in (160, 240, 320):
        cv2.line(large, (20, line), (460, line), 0, 8)
    cv2.ellipse(large, (200, 280), (38, 26), -20, 0, 360, 0, -1)
    cv2.line(large, (234, 270), (234, 60), 0, 8)
    found = traced(np.asarray(cv2.resize(large, (120, 120), interpolation=cv2.INTER_AREA), np.uint8))
    heads = [line for line in found.lines if line.width > 8]
    assert len(heads) == 1
    assert np.abs(heads[0].contour.curves.reshape(-1, 2) - [50, 70]).max() < 8


@pytest.mark.parametrize("radius", [30, 34, 37])
def test_a_wheel_that_touches_the_road_stays_round(radius):
    large = np.full((640, 800), 255, np.uint8)
    cv2.circle(large, (360, 280), 4 * radius, 0, 24)
    cv2.line(large, (40, 436), (760, 436), 0, 24)
    found = traced(np.asarray(cv2.resize(large, (200, 160), interpolation=cv2.INTER_AREA), np.uint8))
    road, wheel = sorted(found.lines, key=lambda line: line.contour.closed)
    assert (len(found.lines), road.contour.closed, wheel.contour.closed) == (2, False, True)
    away = np.linalg.norm(wheel.contour.flattened(0.02) - np.array([90.125, 70.125]), axis=1)
    assert np.abs(away - radius).max() < 0.5


@pytest.mark.parametrize("width", [4, 7, 12])
def test_a_zigzag_of_narrow_corners_is_one_stroke_to_its_tips(width):
    corners = [(51, 187), (94, 323), (119, 196), (150, 323), (187, 187)]
    found = traced(drawn(*((one, other, width) for one, other in pairwise(corners)), size=(240, 380)))
    assert len(found.lines) == 1
    curves = found.lines[0].contour.curves
    assert len(curves) == 4
    for corner in corners[1:4]:
        assert np.linalg.norm(curves[:, 0] - corner, axis=1).min() < 0.6


def test_a_door_at_the_end_of_a_wall_leaves_the_wall_straight():
    found = traced(drawn(((20, 80), (110, 80), 10), ((109, 80), (109, 130), 3)))
    wall, door = sorted(found.lines, key=lambda line: -line.width)
    assert wall.width == pytest.approx(10, abs=0.4)
    assert door.width == pytest.approx(3, abs=0.4)
    assert np.abs(wall.contour.curves[..., 1] - 80).max() < 0.5
    assert np.abs(door.contour.curves[..., 0] - 109).max() < 0.5
    # The door reaches the middle of the wall.
    assert min(door.contour.curves[0, 0, 1], door.contour.curves[-1, 3, 1]) == pytest.approx(80, abs=0.6)


def test_a_thin_line_that_a_thick_one_crosses_is_one():
    found = traced(drawn(((20, 80), (200, 80), 2), ((110, 10), (110, 150), 10)))
    assert sorted(round(line.width) for line in found.lines) == [2, 10]


def test_a_white_dot_does_not_break_a_line_and_a_gap_does():
    whole = drawn(((20, 80), (200, 80), 3))
    dotted, parted = whole.copy(), whole.copy()
    dotted[76:84, 110] = 255
    parted[76:84, 104:118] = 255
    assert [len(traced(picture).lines) for picture in (whole, dotted, parted)] == [1, 1, 2]


def test_a_dotted_line_stays_dotted():
    picture = drawn()
    for k in range(20):
        picture[79:82, 20 + 8 * k : 23 + 8 * k] = 0
    assert len(traced(picture).lines) == 20


def test_pens_are_told_apart_only_where_nothing_lies_between():
    widths = {"two": (10, 3), "one": (6, 6), "a row": (3, 4, 5, 6, 7, 8)}
    pens = {}
    for name, some in widths.items():
        grey = drawn(*(((10, 15 + 24 * k), (210, 15 + 24 * k), w) for k, w in enumerate(some)))
        values = (255 - grey.astype(np.float32)) / 255
        pens[name] = by_pen(values > 0.5, values, 0.5)
    assert [len(found) for found in pens.values()] == [2, 1, 1]
    thick, thin = pens["two"]
    assert not (thick & thin).any()
    assert int(thick.sum()) == pytest.approx(10 * 200, rel=0.02)


def test_no_stroke_runs_over_paper():
    fitted, width, height = mixed.childs_drawing().fitted(700)
    cover = fitted.cover(width, height)
    for spoil in (render.clean, render.one_bit):
        for line in trace_strokes(decode(spoil(cover)), StrokeSettings()).lines:
            x, y = np.floor(line.contour.flattened(0.05)).astype(int).T
            on = cover[np.clip(y, 0, height - 1), np.clip(x, 0, width - 1)]
            assert (on < 0.2).sum() <= 2
