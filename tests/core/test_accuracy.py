"""A part of the scorer in benchmarks/tracing: pictures of known outlines must come back as those outlines."""

from functools import cache

import numpy as np
import pytest
from benchmarks.tracing import layers, linework, render
from benchmarks.tracing.measure import Score, score, score_layers, score_lines
from benchmarks.tracing.truth import truths

from drelo.core.picture.decode import decode
from drelo.core.trace.colours.colours import ColourSettings, trace_colours
from drelo.core.trace.ink import InkSettings, trace_ink
from drelo.core.trace.strokes.strokes import StrokeSettings, trace_strokes


@cache
def placed(side: int):
    result = []
    for truth in truths():
        outlines, width, height = truth.fitted(side)
        result.append((outlines, render.coverage(outlines, width, height)))
    return result


def scores(condition: str, side: int) -> list[Score]:
    return [
        score(trace_ink(decode(render.CONDITIONS[condition](cover)), InkSettings()).outlines, outlines)
        for outlines, cover in placed(side)
    ]


# Condition, px, mean px, 99 % px, nodes against the truth's, share of corners, false corners a picture.
FIGURES = [
    ("clean", 300, 0.03, 0.15, 1.0, 0.97, 1),
    ("clean", 1000, 0.03, 0.15, 1.25, 0.97, 1),
    ("jpeg", 300, 0.04, 0.2, 1.1, 0.95, 1),
    ("blur", 600, 0.04, 0.2, 1.25, 0.9, 1),
    ("noise", 300, 0.05, 0.3, 1.1, 0.85, 1.5),
    ("uneven", 300, 0.04, 0.2, 1.1, 0.95, 1),
    ("1-bit", 300, 0.09, 0.5, 1.0, 0.88, 2),
    ("1-bit", 600, 0.08, 0.4, 1.2, 0.92, 1.5),
]


@pytest.mark.parametrize(("condition", "side", "mean", "most", "nodes", "corners", "false"), FIGURES)
def test_ink_lies_on_the_true_outline_with_few_nodes(condition, side, mean, most, nodes, corners, false):
    found = scores(condition, side)
    assert np.mean([s.mean for s in found]) <= mean
    assert np.mean([s.most for s in found]) <= most
    assert np.mean([s.nodes for s in found]) <= nodes
    assert sum(s.found for s in found) >= corners * sum(s.corners for s in found)
    assert np.mean([s.false for s in found]) <= false
    assert all(s.topology for s in found)


@pytest.mark.parametrize(
    ("condition", "mean", "colour"), [("clean", 0.055, 2), ("jpeg", 0.11, 6), ("blur", 0.06, 2), ("noise", 0.06, 2)]
)
def test_colours_share_their_edges(condition, mean, colour):
    found = []
    for art in layers.all_layers():
        fitted, width, height = art.fitted(600)
        picture = decode(layers.CONDITIONS[condition](fitted.pixels(width, height)))
        found.append(score_layers(trace_colours(picture, ColourSettings()), fitted.visible()))
    assert np.mean([s.mean for s in found]) <= mean
    assert max(s.colour for s in found) <= colour
    assert all(s.shapes for s in found)
    # What neighbours share is the same curve, so that nothing lies between or under them but rounding.
    assert max(abs(s.overlap) for s in found) < 1e-6


@pytest.mark.parametrize("side", [150, 200])
def test_thin_shapes_of_a_coded_picture_have_their_colour(side):
    for art in layers.all_layers():
        fitted, width, height = art.fitted(side)
        picture = decode(layers.CONDITIONS["jpeg"](fitted.pixels(width, height)))
        found = score_layers(trace_colours(picture, ColourSettings()), fitted.visible())
        assert found.mean <= 0.11
        assert found.colour <= 6


@pytest.mark.parametrize("side", [150, 400])
@pytest.mark.parametrize(("condition", "mean"), [("clean", 0.07), ("noise", 0.12)])
def test_strokes_lie_in_the_middle_of_their_ink(condition, mean, side):
    found = []
    for art in linework.all_linework():
        fitted, width, height = art.fitted(side)
        picture = decode(render.CONDITIONS[condition](fitted.cover(width, height)))
        found.append(score_lines(trace_strokes(picture, StrokeSettings()).lines, fitted.lines))
    assert np.mean([s.mean for s in found]) <= mean
    assert np.mean([s.width for s in found]) <= 0.15
    assert np.mean([s.nodes for s in found]) <= 1.6


def test_crossings_and_joints_of_strokes_are_kept():
    weave = linework.all_linework()[1]
    fitted, width, height = weave.fitted(200)
    lines = trace_strokes(decode(render.clean(fitted.cover(width, height))), StrokeSettings()).lines
    assert len(lines) == len(weave.lines)
    assert all(line.cap == "round" for line in lines)
    frames = linework.all_linework()[2]
    fitted, width, height = frames.fitted(300)
    lines = trace_strokes(decode(render.clean(fitted.cover(width, height))), StrokeSettings()).lines
    assert sorted(line.contour.closed for line in lines) == [False, True, True]
    assert all(line.join == "mitre" for line in lines)


@pytest.mark.parametrize(("art", "side"), [(0, 600), (1, 300), (2, 1000)])
def test_flat_colours_without_antialiasing_leave_no_stairs_and_no_bows(art, side):
    fitted, width, height = layers.all_layers()[art].fitted(side)
    trace = trace_colours(decode(layers.packed(fitted.unmixed(width, height), "PNG")), ColourSettings())
    found = score_layers(trace, fitted.visible())
    assert found.shapes
    assert found.mean <= 0.13
    assert found.most <= 0.8
    assert sum(len(c.curves) for o in trace.outlines for c in o.contours) <= 200
