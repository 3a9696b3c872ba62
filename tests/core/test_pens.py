"""Line drawings of thick beside thin pens: each stroke with its own width, none lost, none bent."""

from __future__ import annotations

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
