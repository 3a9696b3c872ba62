"""The scorer itself: what lies exactly on the truth scores nought, and what is off by a known bit scores that."""

import numpy as np
import pytest
from benchmarks.tracing import layers, linework, render
from benchmarks.tracing.measure import corner_nodes, distances, points, score, score_layers, score_lines
from benchmarks.tracing.truth import arc_ring, shapes, truths, words

from drelo.core.outline.contour import polygon
from drelo.core.outline.outline import Outline
from drelo.core.trace.trace import Line, Trace


def test_the_truth_scores_nought_against_itself():
    for truth in truths():
        outlines, _, _ = truth.fitted(400)
        found = score(outlines, outlines)
        assert found.mean < 2e-3
        assert found.nodes == 1
        assert found.found == found.corners
        assert found.false == 0
        assert found.topology


@pytest.mark.parametrize("shift", [0.05, 0.3, 2.0])
def test_a_moved_circle_scores_what_it_was_moved(shift):
    truth = [Outline(arc_ring(100, 100, 60, 60))]
    moved = [Outline(arc_ring(100 + shift, 100, 60, 60))]
    found = score(moved, truth)
    # The mean of |cos| round a circle is 2/π.
    assert found.mean == pytest.approx(shift * 2 / np.pi, rel=0.05, abs=2e-3)
    assert found.most == pytest.approx(shift, rel=0.05, abs=4e-3)


def test_missing_and_added_corners_are_counted():
    square = polygon(np.array([[10, 10], [10, 60], [60, 60], [60, 10.0]]))
    cut = polygon(np.array([[10, 10], [10, 60], [52, 60], [60, 52], [60, 10.0]]))
    found = score([Outline(cut)], [Outline(square)])
    assert (found.corners, found.found, found.false) == (4, 3, 2)
    assert len(corner_nodes([arc_ring(0, 0, 5, 5)])) == 0


def test_a_lost_hole_is_a_wrong_topology():
    ring = Outline(arc_ring(50, 50, 40, 40), (arc_ring(50, 50, 10, 10).reversed(),))
    assert not score([Outline(ring.outer)], [ring]).topology


def test_distances_are_to_the_nearest_place_not_the_nearest_node():
    line = polygon(np.array([[0, 0], [100, 0], [100, 1], [0, 1.0]]))
    probe = polygon(np.array([[40, 0.25], [41, 0.25], [41, 0.3], [40, 0.3]]))
    assert distances([probe], [line]).max() < 0.31
    assert len(points([line])) > 700


def test_rendering_is_exact_coverage():
    square = Outline(polygon(np.array([[2.25, 3], [2.25, 8], [7.5, 8], [7.5, 3.0]])))
    cover = render.coverage([square], 12, 12)
    assert cover.sum() == pytest.approx(5.25 * 5, abs=0.02)
    assert cover[5, 2] == pytest.approx(0.75, abs=0.01)
    assert cover[5, 7] == pytest.approx(0.5, abs=0.01)


def test_truths_lie_inside_their_pictures_and_apart():
    for truth in [*truths(), words("sans", "O8"), shapes()]:
        outlines, width, height = truth.fitted(300)
        boxes = np.array([o.outer.bounds for o in outlines])
        assert boxes[:, :2].min() > 2
        assert (boxes[:, 2] < width - 2).all()
        assert (boxes[:, 3] < height - 2).all()
        assert render.coverage(outlines, width, height).max() <= 1


def test_colours_of_layers_are_scored():
    art, width, height = layers.discs().fitted(200)
    visible = art.visible()
    outlines, fills = [], []
    for colour, shape in visible:
        for part in getattr(shape, "geoms", [shape]):
            rings = [np.array(r.coords)[:-1] for r in (part.exterior, *part.interiors)]
            outlines.append(Outline(polygon(rings[0]), tuple(polygon(r) for r in rings[1:])))
            fills.append("#{:02x}{:02x}{:02x}".format(*colour))
    found = score_layers(Trace(tuple(outlines), fills=tuple(fills)), visible)
    assert found.mean < 1e-3
    assert (found.colour, found.shapes) == (0, True)
    assert abs(found.overlap) < 1e-6
    wrong = score_layers(Trace(tuple(outlines), fills=("#000000",) * len(fills)), visible)
    assert wrong.colour > 30
    assert art.pixels(width, height).shape == (height, width, 3)


def test_lines_are_scored_by_place_and_width():
    drawing, _, _ = linework.weave().fitted(200)
    lines = [Line(c, w + 0.5) for c, w in drawing.lines]
    found = score_lines(lines, drawing.lines)
    assert found.mean < 1e-3
    assert found.width == pytest.approx(0.5)
    assert found.nodes == 1
