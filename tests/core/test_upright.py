"""The quick proof that a mesh is sealed says nothing that looking at every pair of triangles would not say."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.form.base import Base
from drelo.core.form.relief import Part, relief
from drelo.core.solid.crossing import first_crossing
from drelo.core.solid.mesh import Mesh, welded
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.upright import surely_sealed

STEP = 2.0**-10


def box(low: tuple[float, float, float], high: tuple[float, float, float]) -> np.ndarray:
    corners = np.array([[(low, high)[i >> k & 1][k] for k in range(3)] for i in range(8)], np.float32)
    faces = [(0, 2, 1), (1, 2, 3), (4, 5, 6), (5, 7, 6), (0, 1, 4), (1, 5, 4)]
    faces += [(2, 6, 3), (3, 6, 7), (0, 4, 2), (2, 4, 6), (1, 3, 5), (3, 7, 5)]
    return corners[np.array(faces)]


def relief_mesh(seed: int, count: int = 4) -> Mesh:
    random = np.random.default_rng(seed)
    parts = []
    for i in range(count):
        x, y = random.integers(0, 30, 2)
        turned = shapely.affinity.rotate(shapely.box(x, y, x + 12, y + 7), float(random.integers(0, 90)))
        parts.append(Part(turned, float(random.choice([-0.6, 0.8, 1.6])), "#c8553d", f"p{i}"))
    design = relief(parts, Base("rectangle", margin=2), 0.05)
    return raise_body(design, arrange_design(design))


def is_good(mesh: Mesh) -> bool:
    """Judged by other code: edges counted, and every pair of triangles looked at."""
    f = mesh.faces.astype(np.int64)
    sides = np.stack([f.ravel(), np.roll(f, -1, axis=1).ravel()], axis=1)
    there = {tuple(s) for s in sides.tolist()}
    if len(there) < len(sides) or any((b, a) not in there for a, b in there):
        return False
    a, b, c = np.moveaxis(mesh.corners, 1, 0)
    return bool((np.cross(b - a, c - a) != 0).any(axis=1).all()) and first_crossing(mesh) is None


@given(st.integers(0, 2**31 - 1))
def test_what_is_raised_is_proved_at_once(seed):
    mesh = relief_mesh(seed)
    assert is_good(mesh)
    assert surely_sealed(welded(mesh.vertices[mesh.faces]))


@given(st.integers(0, 2**31 - 1), st.integers(0, 4))
def test_what_is_proved_is_good(seed, way):
    random = np.random.default_rng(seed)
    mesh = relief_mesh(seed, 3)
    vertices, faces = mesh.vertices.copy(), mesh.faces.copy()
    at = int(random.integers(len(vertices)))
    if way == 0:
        vertices[at] += random.choice([-1, 0, 1], 3) * STEP * 2.0 ** random.integers(0, 12)
    elif way == 1:
        column = (vertices[:, :2] == vertices[at, :2]).all(axis=1)
        vertices[column, :2] += (random.integers(-3, 4, 2) * STEP * 2.0 ** random.integers(0, 11)).astype(np.float32)
    elif way == 2:
        level = vertices[:, 2] == vertices[at, 2]
        vertices[level, 2] = random.choice(vertices[:, 2]) + np.float32(random.choice([0, 0.25]))
    elif way == 3:
        faces = np.delete(faces, random.integers(len(faces)), axis=0)
    else:
        moved = vertices + (random.integers(-2, 3, 3) * 2.0 ** random.integers(-10, 4)).astype(np.float32)
        vertices, faces = np.concatenate([vertices, moved]), np.concatenate([faces, faces + len(vertices)])
    changed = welded(vertices[faces])
    if surely_sealed(changed):
        assert is_good(changed)


APART = [
    ("apart", (3, 0, 0), (4, 1, 1), True),
    ("over it, apart", (0, 0, 2), (1, 1, 3), True),
    ("half in it", (0.5, 0.5, 0.5), (2, 2, 2), False),
    ("wholly in it", (0.25, 0.25, 0.25), (0.5, 0.5, 0.5), False),
    ("standing on it", (0.25, 0.25, 1), (0.5, 0.5, 2), False),
    ("through it", (0.25, 0.25, -1), (0.5, 0.5, 2), False),
    ("side on side", (1, 0, 0), (2, 1, 1), False),
    ("wall on wall in part", (1, 0.25, 0.25), (2, 0.75, 0.75), False),
    ("edge on edge", (1, 1, 0), (2, 2, 1), False),
    ("edge on edge in part", (1, 1, 0.25), (2, 2, 0.75), False),
    ("corner on corner, which every edge allows", (1, 1, 1), (2, 2, 2), True),
    ("corner on face", (0.5, 1, 0.5), (1.5, 2, 1.5), False),
    ("twice", (0, 0, 0), (1, 1, 1), False),
]


@pytest.mark.parametrize(("low", "high", "sealed"), [c[1:] for c in APART], ids=[c[0] for c in APART])
def test_two_boxes(low, high, sealed):
    mesh = welded(np.concatenate([box((0, 0, 0), (1, 1, 1)), box(low, high)]))
    assert surely_sealed(mesh) == sealed


def test_a_cavity_is_proved_and_a_box_inside_out_is_not():
    outer, inner = box((0, 0, 0), (4, 4, 4)), box((1, 1, 1), (2, 2, 2))
    assert surely_sealed(welded(np.concatenate([outer, inner[:, ::-1]])))
    assert not surely_sealed(welded(outer[:, ::-1]))


def test_what_leans_or_has_numbers_too_far_apart_is_left_to_the_long_way():
    leaning = box((0, 0, 0), (1, 1, 1))
    leaning[leaning[:, :, 2] == 1] += [0.5, 0, 0]
    assert not surely_sealed(welded(leaning))
    assert not surely_sealed(welded(box((1e-9, 0, 0), (1000, 1, 1))))
