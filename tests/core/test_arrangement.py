"""The arrangement on its grid, and what is raised from it."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.form.base import Base
from drelo.core.form.relief import Part, relief
from drelo.core.region.arrangement import GRID, OUTSIDE, arrange, grid_for
from drelo.core.solid.crossing import first_crossing
from drelo.core.solid.mesh import Mesh, welded
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.seal import check_seal
from drelo.core.solid.surface import plan, surface


def blob(x: float, y: float, r: float, seed: int = 0) -> shapely.Polygon:
    random = np.random.default_rng(seed)
    angle = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    radius = r * (1 + 0.2 * np.sin(3 * angle + random.random() * 6))
    return shapely.Polygon(np.column_stack([x + radius * np.cos(angle), y + radius * np.sin(angle)]))


# Grid


def test_ordinary_art_takes_the_ordinary_grid_and_tiny_art_a_finer_one():
    assert grid_for(80) == GRID
    assert grid_for(0.5) < GRID
    assert np.log2(grid_for(0.5)) == round(np.log2(grid_for(0.5)))


def test_art_too_large_for_its_grid_is_refused():
    with pytest.raises(Refusal):
        grid_for(1e9)


# Arrangement


def test_the_last_layer_is_on_top():
    a = arrange([shapely.box(0, 0, 10, 10), shapely.box(5, 0, 15, 10)], GRID)
    areas = {int(t): float(a.areas[a.top == t].sum()) for t in (0, 1)}
    assert areas == pytest.approx({0: 50, 1: 100})


def test_every_edge_has_two_sides_that_differ():
    a = arrange([blob(10, 10, 8), blob(16, 12, 7, 1), blob(12, 18, 6, 2)], GRID)
    assert (a.left != a.right).all()
    assert ((a.left == OUTSIDE) | (a.right == OUTSIDE)).any()
    assert a.vertices.dtype == np.int64


@given(st.integers(0, 2**31 - 1), st.integers(1, 8))
def test_faces_add_up_to_the_covered_area(seed, count):
    random = np.random.default_rng(seed)
    shapes = [blob(*random.uniform(10, 40, 2), random.uniform(2, 12), int(random.integers(99))) for _ in range(count)]
    a = arrange(shapes, GRID)
    union = shapely.union_all(shapely.set_precision(np.array(shapes), GRID))
    assert a.areas[a.top >= 0].sum() == pytest.approx(union.area, rel=1e-4)


@pytest.mark.parametrize("shift", [1e-6, 1e-5, 1e-4, 1e-3, 1e-2])
def test_copies_moved_by_a_hair_are_sealed(shift):
    shapes = [blob(20, 20, 10), shapely.affinity.translate(blob(20, 20, 10), shift, shift / 2)]
    parts = [Part(s, h, c, "p") for s, h, c in zip(shapes, (1.0, 2.0), ("#c8553d", "#1d3557"), strict=True)]
    design = relief(parts, Base("rectangle", margin=3), 0.01)
    assert check_seal(raise_body(design, arrange_design(design))).sealed


def test_shapes_that_fold_back_on_themselves_are_sealed():
    bow = shapely.make_valid(shapely.Polygon([(0, 0), (10, 10), (10, 0), (0, 10)]))
    design = relief([Part(bow, 1.5, "#c8553d", "bow")], Base("outline", margin=1), 0.01)
    mesh = raise_body(design, arrange_design(design))
    assert check_seal(mesh).sealed


@given(st.integers(0, 2**31 - 1))
def test_traced_noise_is_sealed(seed):
    random = np.random.default_rng(seed)
    cells = random.random((6, 6)) < 0.5
    if not cells.any():
        return
    squares = [shapely.box(4 * x, 4 * y, 4 * x + 4, 4 * y + 4) for y, x in np.argwhere(cells)]
    heights = random.choice([-0.6, 0.0, 0.5, 1.0], len(squares))
    colours = ["#c8553d" if k % 2 else "#1d3557" for k in range(len(squares))]
    parts = [Part(s, float(h), c, "p") for s, h, c in zip(squares, heights, colours, strict=True)]
    design = relief(parts, Base("rectangle", margin=2), 0.01)
    arrangement = arrange_design(design)
    assert check_seal(raise_body(design, arrangement)).sealed
    for filament in range(len(design.filaments)):
        body = raise_body(design, arrangement, filament)
        if len(body.faces):
            assert check_seal(body).sealed


# The screen's surface


def test_the_surface_on_screen_has_the_size_of_the_solid():
    parts = [Part(blob(20, 20, 10), 1.5, "#c8553d", "p"), Part(blob(24, 20, 5, 3), -0.5, "#1d3557", "q")]
    design = relief(parts, Base("rectangle", margin=3), 0.02)
    arrangement = arrange_design(design)
    shown = surface(plan(arrangement), design.columns)
    points = shown.triangles.reshape(-1, 3)
    solid = raise_body(design, arrangement)
    assert np.ptp(points, axis=0) == pytest.approx(solid.size, abs=1e-3)
    assert np.isfinite(points).all()


# Meshes


def cube(x: float = 0.0, size: float = 1.0) -> np.ndarray:
    corners = np.array([[i & 1, i >> 1 & 1, i >> 2 & 1] for i in range(8)], np.float32) * size + [x, 0, 0]
    below, above = [(0, 2, 1), (1, 2, 3)], [(4, 5, 6), (5, 7, 6)]
    sides = [(0, 1, 4), (1, 5, 4), (2, 6, 3), (3, 6, 7), (0, 4, 2), (2, 4, 6), (1, 3, 5), (3, 7, 5)]
    faces = below + above + sides
    return corners[np.array(faces)].astype(np.float32)


def test_a_cube_is_sealed_and_measured():
    mesh = welded(cube())
    seal = check_seal(mesh)
    assert seal.sealed
    assert (mesh.volume, mesh.area) == pytest.approx((1, 6))
    assert len(mesh.vertices) == 8
    assert seal.size == (1, 1, 1)


def test_two_cubes_are_two_parts():
    seal = check_seal(welded(np.concatenate([cube(), cube(3)])))
    assert seal.sealed
    assert seal.parts == 2


@pytest.mark.parametrize(
    ("triangles", "words"),
    [
        (cube()[1:], "edge"),
        (cube()[:, ::-1], "inward|inside"),
        (np.concatenate([cube(), cube()[:1]]), "twice|edge"),
        (np.concatenate([cube(), cube(0.5)]), "runs through itself"),
        (np.concatenate([cube(), np.zeros((1, 3, 3), np.float32)]), "without area"),
    ],
)
def test_what_is_wrong_with_a_mesh_is_said(triangles, words):
    seal = check_seal(welded(triangles.astype(np.float32)))
    assert not seal.sealed
    assert any(any(w in p for w in words.split("|")) for p in seal.problems), seal.problems


def test_cubes_that_share_an_edge_are_not_sealed():
    touching = cube() + np.array([1, 1, 0], np.float32)
    assert not check_seal(welded(np.concatenate([cube(), touching]))).sealed


def test_an_empty_mesh_is_not_sealed():
    empty = Mesh(np.empty((0, 3), np.float32), np.empty((0, 3), np.int32))
    assert not check_seal(empty).sealed
    assert empty.size == (0, 0, 0)


@given(st.floats(0.05, 0.95), st.floats(0.05, 0.95))
def test_cubes_that_overlap_are_found_wherever_they_lie(dx, dy):
    moved = cube() + np.array([dx, dy, 0.25], np.float32)
    assert first_crossing(welded(np.concatenate([cube(), moved]))) is not None


def test_cubes_apart_do_not_cross():
    assert first_crossing(welded(np.concatenate([cube(), cube(1.001)]))) is None


# Curves that fold back on themselves


def folded(points: list[tuple[float, float]]) -> shapely.Polygon:
    """A ring there and back again along the same way: it encloses nothing."""
    return shapely.Polygon([*points, *points[-2:0:-1]])


@given(
    st.lists(st.tuples(st.floats(0, 40), st.floats(0, 40)), min_size=3, max_size=12, unique=True),
    st.integers(0, 3),
    st.booleans(),
)
def test_a_ring_that_folds_back_exactly_is_no_border(points, others, under):
    fold = folded(points)
    plain = [shapely.box(5 + 3 * i, 5, 30 + 3 * i, 30) for i in range(others + 1)]
    layers = [fold, *plain] if under else [*plain, fold]
    found = arrange(layers, GRID)
    fold_layer = 0 if under else len(layers) - 1
    thin = found.areas[found.top == fold_layer].sum()
    assert thin < 0.05
    assert found.areas[found.top >= 0].sum() == pytest.approx(shapely.union_all(plain).area, abs=0.1)


def test_segments_that_cancel_out_last_of_all_do_not_write_past_the_end():
    # The source with the highest number is no border any more: its bucket must be there all the same.
    plain = shapely.box(0, 0, 60, 60)
    steps = np.linspace(0, np.pi, 400)
    arc = [(20 + 20 * s / np.pi, 30 + 15 * np.sin(s)) for s in steps]
    found = arrange([plain, folded(arc)], GRID)
    assert found.areas[found.top >= 0].sum() == pytest.approx(3600, abs=0.1)
