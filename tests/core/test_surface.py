"""What the screen shows is the solid: same volume and size, every region's own share, whatever stands on it."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drelo.core.form.base import Base
from drelo.core.form.edges import Edge
from drelo.core.form.relief import Part, relief
from drelo.core.solid.mesh import welded
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.surface import NO_TOP, divided, plan, surface

COLOURS = ("#efe3c8", "#3f6b3a", "#30343b")
TOLERANCE = 0.05

heights = st.one_of(st.sampled_from([0.0, "through"]), st.floats(-1.2, 4).map(lambda h: round(h, 1) or 0.4))
kinds = st.sampled_from(["straight", "bevel", "round"])
parts = st.lists(
    st.tuples(st.integers(0, 20), st.integers(0, 20), st.integers(3, 14), heights, st.sampled_from(COLOURS), kinds),
    min_size=1,
    max_size=5,
)


def shown(rows, base: Base):
    made = [
        Part(shapely.box(x, y, x + side, y + side), height, colour, f"p{i}", edge=Edge(kind, 0.4), number=i)
        for i, (x, y, side, height, colour, kind) in enumerate(rows)
    ]
    design = relief(made, base, TOLERANCE)
    arrangement = arrange_design(design)
    return design, arrangement, surface(plan(arrangement), design.columns)


@given(parts, st.sampled_from(["rectangle", "outline"]))
@settings(max_examples=60, deadline=None)
def test_the_surface_has_the_volume_and_the_size_of_the_solid(rows, shape):
    design, arrangement, outer = shown(rows, Base(shape, 2, 2, 0))
    solid = raise_body(design, arrangement)
    mesh = welded(outer.triangles)
    assert mesh.volume == pytest.approx(solid.volume, rel=1e-4)
    assert np.ptp(outer.triangles.reshape(-1, 3), axis=0) == pytest.approx(solid.size, abs=1e-4)


@given(parts)
@settings(max_examples=40, deadline=None)
def test_runs_cover_every_triangle_once_in_order(rows):
    design, _, outer = shown(rows, Base("rectangle", 2, 2, 0))
    at = 0
    seen = set()
    for run in outer.runs:
        assert run.start == at
        assert run.count > 0
        assert (run.layer, run.filament) not in seen
        seen.add((run.layer, run.filament))
        assert 0 <= run.filament < len(design.filaments)
        at += run.count
    assert at == len(outer.triangles)


def test_walls_face_outward_on_both_sides_of_a_step():
    design, arrangement, outer = shown(
        [(0, 0, 10, 2.0, COLOURS[0], "straight"), (10, 0, 10, 1.0, COLOURS[1], "straight")], Base("none")
    )
    assert welded(outer.triangles).volume == pytest.approx(300, rel=1e-6)
    corners = outer.triangles.astype(float)
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    step = np.abs(corners[:, :, 0] - 10).max(axis=1) < 1e-6
    assert step.any()
    assert (normal[step, 0] > 0).all()
    assert raise_body(design, arrangement).volume == pytest.approx(300, rel=1e-6)


def test_a_new_height_moves_points_only():
    _, arrangement, low = shown([(0, 0, 10, 1.0, COLOURS[0], "straight")], Base("rectangle", 2, 2, 0))
    design, _, high = shown([(0, 0, 10, 3.0, COLOURS[0], "straight")], Base("rectangle", 2, 2, 0))
    again = surface(plan(arrangement), design.columns)
    assert np.array_equal(again.triangles, high.triangles)
    assert len(low.triangles) == len(high.triangles)


raised_heights = st.floats(0.2, 6).map(lambda h: round(h, 1))
raised = st.lists(
    st.tuples(st.integers(0, 20), st.integers(0, 20), st.integers(3, 14), raised_heights, st.sampled_from(COLOURS)),
    min_size=1,
    max_size=5,
)


def moved(outer, rise):
    """The corners with the tops of each layer higher by `rise`, as the page does it."""
    corners = outer.triangles.astype(float)
    for first, many, under, over in outer.tops.tolist():
        half = first + many // 2
        lower, upper = (0.0 if layer == NO_TOP else rise[layer] for layer in (under, over))
        if under == over:
            corners[first : first + many, :, 2] += lower
            continue
        corners[first:half, :, 2] += [lower, lower, upper]
        corners[half : first + many, :, 2] += [lower, upper, upper]
    return corners


@given(raised, st.lists(raised_heights, min_size=5, max_size=5))
@settings(max_examples=60, deadline=None)
def test_tops_that_are_moved_make_the_solid_of_the_new_heights(rows, heights):
    base = Base("rectangle", 2, 2, 0)
    design, arrangement, _ = shown([(*row, "straight") for row in rows], base)
    after, other, _ = shown([(*row[:3], h, row[4], "straight") for row, h in zip(rows, heights, strict=False)], base)
    outer = surface(plan(arrangement), design.columns, design.owners)
    rise = [new[-1].top - old[-1].top for old, new in zip(design.columns, after.columns, strict=True)]
    corners = moved(outer, rise)
    volume = np.einsum("ij,ij->", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6
    assert volume == pytest.approx(raise_body(after, other).volume, rel=1e-4)
    assert np.ptp(corners[:, :, 2]) == pytest.approx(raise_body(after, other).size[2], abs=1e-4)


def test_between_level_regions_is_a_wall_of_no_height_that_opens_when_one_of_them_moves():
    rows = [(0, 0, 10, 1.0, COLOURS[0], "straight"), (10, 0, 10, 1.0, COLOURS[0], "straight")]
    design, arrangement, plain = shown(rows, Base("none"))
    outer = surface(plan(arrangement), design.columns, design.owners)
    assert len(outer.triangles) == len(plain.triangles) + 2
    corners = moved(outer, [0.0, 2.0])
    mesh = welded(corners.astype(np.float32))
    assert mesh.volume == pytest.approx(100 + 300, rel=1e-6)


@given(parts, st.randoms(use_true_random=False))
@settings(max_examples=30, deadline=None)
def test_a_divided_surface_has_the_same_triangles_in_runs_by_owner(rows, chance):
    _, _, outer = shown(rows, Base("rectangle", 2, 2, 0))
    owner = np.array([chance.randrange(4) for _ in outer.triangles])
    again = divided(outer, owner)
    assert sorted(map(tuple, again.triangles.reshape(-1, 9))) == sorted(map(tuple, outer.triangles.reshape(-1, 9)))
    assert sum(run.count for run in again.runs) == len(outer.triangles)
    for run in again.runs:
        assert run.count == sum(
            np.count_nonzero(owner[r.start : r.start + r.count] == run.layer)
            for r in outer.runs
            if r.filament == run.filament
        )
