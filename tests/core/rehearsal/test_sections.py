"""Sections of meshes, held against an independent section and against what they enclose."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.form.base import Base
from drelo.core.form.relief import Part, relief
from drelo.core.rehearsal.sections import loops, sections
from drelo.core.solid.mesh import Mesh
from drelo.core.solid.raising import arrange_design, raise_body


def of(solid: trimesh.Trimesh) -> Mesh:
    return Mesh(solid.vertices.astype(np.float32), solid.faces.astype(np.int32))


SOLIDS = {
    "ball": trimesh.creation.icosphere(subdivisions=4, radius=20),
    "ring": trimesh.creation.annulus(r_min=5, r_max=12, height=9, sections=96),
    "cone": trimesh.creation.cone(radius=10, height=20, sections=128),
    "doughnut": trimesh.creation.torus(major_radius=15, minor_radius=4, major_sections=96, minor_sections=48),
}


@pytest.mark.parametrize("name", SOLIDS)
def test_areas_are_those_of_an_independent_section(name):
    solid = SOLIDS[name]
    low, high = solid.bounds[:, 2]
    heights = np.linspace(low + 0.13, high - 0.17, 40)
    ours = sections(of(solid), heights)
    stretches, _, _ = trimesh.intersections.mesh_multiplane(solid, np.zeros(3), [0, 0, 1], heights)
    for area, lines in zip(ours, stretches, strict=True):
        other = shapely.build_area(shapely.set_precision(shapely.multilinestrings(lines), 1e-7))
        assert area.is_valid
        assert area.area == pytest.approx(other.area, rel=1e-3, abs=2e-3)


@given(st.floats(-21, 21), st.floats(0.05, 5), st.integers(1, 60))
def test_every_loop_closes_at_any_height(first, step, count):
    heights = first + step * np.arange(count)
    found = loops(of(SOLIDS["doughnut"]), heights)
    lengths = np.diff(found.starts)
    # A closed mesh leaves no open end: each stretch is in one loop, of three corners or more.
    assert (lengths >= 3).all()
    assert len(found.points) == lengths.sum()


def test_heights_just_at_corners_make_closed_loops_too():
    solid = SOLIDS["ball"]
    heights = np.unique(solid.vertices[:, 2].astype(np.float32)).astype(np.float64)
    areas = sections(of(solid), heights)
    assert all(area.is_valid for area in areas)
    middle = len(areas) // 2
    assert areas[middle].area == pytest.approx(np.pi * (400 - heights[middle] ** 2), rel=0.02)


def test_islands_in_holes_in_islands_are_told_apart():
    one, two, three, four, five = (shapely.box(4 * k, 4 * k, 40 - 4 * k, 40 - 4 * k) for k in range(5))
    rings = [shapely.difference(one, two), shapely.difference(three, four), five]
    design = relief([Part(ring, 2.0, "#101010", "part") for ring in rings], Base("none"), 0.01)
    mesh = raise_body(design, arrange_design(design))
    (area,) = sections(mesh, np.array([1.0]))
    assert area.area == pytest.approx(sum(ring.area for ring in rings), rel=1e-4)
    assert len(shapely.get_parts(area)) == 3


def test_above_and_below_there_is_nothing():
    areas = sections(of(SOLIDS["cone"]), np.array([-5.0, 5.0, 50.0]))
    assert [area.is_empty for area in areas] == [True, False, True]
    assert sections(Mesh(np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32)), np.array([1.0]))[0].is_empty


def test_upright_walls_give_one_section_for_all_heights():
    areas = sections(of(SOLIDS["ring"]), np.linspace(-4, 4, 20))
    assert len({id(area) for area in areas}) == 1
