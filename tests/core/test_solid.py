"""Sealed, always: known solids, nasty maps, and the seal's own judgement."""

import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.form.base import Base, smallest_circle
from drelo.core.form.relief import Part, relief
from drelo.core.region.arrangement import GRID, arrange, grid_for
from drelo.core.solid.mesh import Mesh, welded
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.seal import check_seal
from drelo.core.solid.surface import plan, surface

TOLERANCE = 0.008
COLOURS = ("#aa0000", "#00aa00", "#0000aa")
HEIGHTS = st.sampled_from([1.0, 0.4, 2.2, 0, -0.5, -1.2, "through"])


def soup(mesh: Mesh) -> Mesh:
    """As it comes back from a file: loose 32-bit triangles, welded again."""
    return welded(mesh.vertices[mesh.faces])


def raised(parts, base) -> tuple[Mesh, list[Mesh], float]:
    """The whole, the bodies, and the volume that the regions' areas and heights make."""
    design = relief(parts, base, TOLERANCE)
    arrangement = arrange_design(design)
    volume = sum(
        area * sum(band.top - band.bottom for band in design.columns[layer])
        for area, layer in zip(arrangement.areas, arrangement.top, strict=True)
        if layer >= 0
    )
    bodies = [raise_body(design, arrangement, i) for i in range(len(design.filaments))]
    return soup(raise_body(design, arrangement)), [soup(b) for b in bodies], volume


def assert_sealed(meshes) -> None:
    for mesh in meshes:
        if len(mesh.faces):
            assert check_seal(mesh).problems == ()


def square(x, y, side=10.0):
    return shapely.box(x, y, x + side, y + side)


@pytest.mark.parametrize(
    ("height", "volume"),
    [(1.5, 26 * 16 * 2 + 150), (-0.5, 26 * 16 * 2 - 50), (0, 26 * 16 * 2), ("through", 26 * 16 * 2 - 200)],
)
def test_volume_of_each_way_to_stand(height, volume):
    parts = [Part(square(0, 0), height, COLOURS[0], "a"), Part(square(10, 0), 0, "#30343b", "b")]
    whole, bodies, _ = raised(parts, Base("rectangle", 3, 2))
    assert_sealed([whole, *bodies])
    assert whole.volume == pytest.approx(volume, rel=1e-6)
    assert whole.size[:2] == (26, 16)


def test_flush_inlay_shares_the_plate():
    whole, bodies, _ = raised([Part(square(0, 0), 0, COLOURS[0], "a")], Base("rectangle", 2, 2))
    assert len(whole.faces) == 12
    assert [round(b.volume, 6) for b in bodies] == [
        pytest.approx(14 * 14 * 2 - 60, rel=1e-6),
        pytest.approx(60, rel=1e-6),
    ]


def test_raised_beside_inlay_of_one_filament_holds_together():
    parts = [Part(square(0, 0), 0, COLOURS[0], "flush"), Part(square(10, 0), 1, COLOURS[0], "raised")]
    whole, bodies, _ = raised(parts, Base("circle", 3, 2))
    assert_sealed([whole, *bodies])
    assert check_seal(bodies[1]).parts == 1


def test_without_a_base_regions_stand_on_the_plate():
    whole, _, volume = raised([Part(square(0, 0), 3, COLOURS[0], "a")], Base("none"))
    assert whole.volume == pytest.approx(300) == volume
    assert len(whole.faces) == 12
    assert whole.vertices.min() == 0


def test_regions_that_meet_in_one_point_are_settled():
    parts = [Part(square(0, 0), 1, COLOURS[0], "a"), Part(square(10, 10), 2, COLOURS[0], "b")]
    for base in (Base("none"), Base("outline"), Base("rectangle", 0)):
        whole, bodies, volume = raised(parts, base)
        assert_sealed([whole, *bodies])
        assert whole.volume == pytest.approx(volume, rel=3e-6)
        assert whole.size[0] == pytest.approx(20 + 2 * base.margin * (base.shape != "none"), abs=0.01)


def test_tips_that_meet_on_the_border_keep_the_size():
    tips = [shapely.Polygon([(0, 0), (8, 10), (0, 10)]), shapely.Polygon([(16, 0), (16, 10), (8, 10)])]
    whole, _, _ = raised([Part(t, 1, COLOURS[0], "t") for t in tips], Base("none"))
    assert_sealed([whole])
    assert whole.size == (16, 10, 1)


@st.composite
def needles(draw):
    """Wedges a fraction of a degree to some degrees wide whose tips meet in one point."""
    headings = draw(st.lists(st.integers(0, 35), min_size=2, max_size=6, unique=True))
    parts = []
    for heading in headings:
        turn, width = np.radians(10 * heading + draw(st.floats(0, 6))), np.radians(draw(st.floats(0.2, 3)))
        ends = [(20 * np.cos(turn + k), 20 * np.sin(turn + k)) for k in (0, width)]
        parts.append(Part(shapely.Polygon([(0, 0), *ends]), draw(HEIGHTS), draw(st.sampled_from(COLOURS)), "needle"))
    return parts


@given(needles())
def test_needles_that_meet_in_one_point_are_sealed(parts):
    whole, bodies, volume = raised(parts, Base("circle", thickness=2))
    assert_sealed([whole, *bodies])
    assert whole.volume == pytest.approx(volume, abs=0.05)


@pytest.mark.parametrize("width", [0.2, 0.4, 0.8, 1.4])
def test_without_a_base_needles_are_sealed(width):
    across = 20 * np.tan(np.radians(width))
    both = [shapely.Polygon([(0, 0), (0.4, s * 20), (0.4 + across, s * 20)]) for s in (1, -1)]
    whole, bodies, _ = raised(
        [Part(n, h, COLOURS[0], "needle") for n, h in zip(both, (2, 1), strict=True)], Base("none")
    )
    assert_sealed([whole, *bodies])


@pytest.mark.parametrize("gap", [1e-6, 1e-5, 1e-4, 1e-3, 3e-3, 1e-2])
def test_copies_moved_by_a_hair(gap):
    blob = shapely.Point(10, 10).buffer(8, quad_segs=40)
    moved = shapely.affinity.translate(blob, gap, gap / 2)
    whole, bodies, _ = raised([Part(blob, 1, COLOURS[0], "a"), Part(moved, 2, COLOURS[1], "b")], Base())
    assert_sealed([whole, *bodies])


@given(st.lists(st.tuples(HEIGHTS, st.sampled_from(COLOURS)), min_size=36, max_size=36))
def test_checkerboards_are_sealed(cells):
    parts = [
        Part(square(4 * (i % 6), 4 * (i // 6), 4.0), height, colour, "c", "h")
        for i, (height, colour) in enumerate(cells)
    ]
    whole, bodies, volume = raised(parts, Base("rectangle", 2, 2, 1))
    assert_sealed([whole, *bodies])
    assert whole.volume == pytest.approx(volume, rel=2e-5)


@st.composite
def blobs(draw):
    number = draw(st.integers(2, 9))
    parts = []
    for _ in range(number):
        x, y = draw(st.floats(0, 30)), draw(st.floats(0, 30))
        radius, lobes, depth = draw(st.floats(2, 12)), draw(st.integers(2, 7)), draw(st.floats(0, 0.9))
        angle = np.linspace(0, 2 * np.pi, draw(st.integers(12, 70)), endpoint=False)
        r = radius * (1 + depth * np.sin(lobes * angle))
        shape = shapely.make_valid(shapely.Polygon(np.column_stack([x + r * np.cos(angle), y + r * np.sin(angle)])))
        shape = shapely.MultiPolygon([g for g in shapely.get_parts(shape) if g.geom_type == "Polygon"])
        parts.append(Part(shape, draw(HEIGHTS), draw(st.sampled_from(COLOURS)), "b", "h"))
    return parts


@given(blobs(), st.sampled_from(["outline", "rectangle", "circle"]))
def test_overlapping_blobs_are_sealed(parts, shape):
    assume(any(part.height != "through" for part in parts))
    whole, bodies, volume = raised(parts, Base(shape, 2, 2))
    assert_sealed([whole, *bodies])
    assert whole.volume == pytest.approx(volume, rel=2e-5)


@pytest.mark.parametrize(
    ("part", "base", "field"),
    [
        (Part(square(0, 0), -2, COLOURS[0], "a", "heights[0].height"), Base(), "heights[0].height"),
        (Part(square(0, 0), -1, COLOURS[0], "a", "heights[0].height"), Base("none"), "heights[0].height"),
        (Part(square(0, 0), float("nan"), COLOURS[0], "a", "h"), Base(), "h"),
        (Part(square(0, 0), 1e9, COLOURS[0], "a", "h"), Base(), "h"),
        (Part(square(0, 0), 1, COLOURS[0], "a"), Base(margin=-5), "base.margin"),
        (Part(square(0, 0), 1, COLOURS[0], "a"), Base(thickness=0), "base.thickness"),
        (Part(shapely.Polygon(), 1, COLOURS[0], "a"), Base(), "art"),
        (Part(square(0, 0), "through", COLOURS[0], "a"), Base("none"), "heights"),
    ],
)
def test_what_cannot_stand_names_its_field(part, base, field):
    with pytest.raises(Refusal) as refused:
        relief([part], base, TOLERANCE)
    assert refused.value.field == field


def test_base_shapes():
    art = shapely.union(square(0, 0), square(14, 0))
    assert smallest_circle(art)[1] == pytest.approx(np.hypot(12, 5))
    ring = shapely.Point(0, 0).buffer(10).difference(shapely.Point(0, 0).buffer(6))
    filled, _, _ = raised([Part(ring, 1, COLOURS[0], "ring")], Base("outline", 3, 2))
    plate = shapely.Point(0, 0).buffer(13, quad_segs=64).area * 2
    assert filled.volume == pytest.approx(plate + ring.area, rel=2e-3)


def test_art_over_the_edge_goes_down_to_the_bottom_with_a_remark():
    base = relief([Part(square(0, 0), 1, COLOURS[0], "a")], Base("rectangle", 0, 2), TOLERANCE).layers[0]
    design = relief([Part(square(5, 0), 1, COLOURS[0], "a")], Base("rectangle", 0, 2), TOLERANCE, plate=base)
    assert any("reaches 5.00 mm past the base" in r.text for r in design.remarks)
    whole = soup(raise_body(design, arrange_design(design)))
    assert_sealed([whole])
    assert whole.volume == pytest.approx(150 * 2 + 100)


def test_grid_is_fine_enough_for_tiny_art_and_refuses_giants():
    assert grid_for(80) == GRID
    assert grid_for(0.1) < 0.1 / 4000
    with pytest.raises(Refusal):
        grid_for(1e6)
    tiny, _, _ = raised([Part(shapely.Point(0, 0).buffer(0.05, quad_segs=30), 0.1, COLOURS[0], "dot")], Base("none"))
    assert_sealed([tiny])


def test_regions_add_up_to_the_covered_area():
    shapes = [shapely.Point(i, i % 3).buffer(2 + i % 2, quad_segs=20) for i in range(8)]
    arrangement = arrange(shapes, GRID)
    assert arrangement.areas[arrangement.top >= 0].sum() == pytest.approx(shapely.union_all(shapes).area, rel=1e-4)


def test_screen_surface_has_the_same_volume():
    parts = [
        Part(square(0, 0), 1, COLOURS[0], "a"),
        Part(square(12, 0), -0.5, COLOURS[1], "b"),
        Part(square(0, 12), 0, COLOURS[1], "c"),
    ]
    design = relief(parts, Base("rectangle", 2, 2), TOLERANCE)
    arrangement = arrange_design(design)
    outer = surface(plan(arrangement), design.columns)
    assert welded(outer.triangles).volume == pytest.approx(raise_body(design, arrangement).volume, rel=1e-6)
    assert sum(run.count for run in outer.runs) == len(outer.triangles)


CUBE = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], np.float32)
FACES = np.array([
    [0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1],
    [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3],
])  # fmt: skip


def cubes(*places, scale=1.0, turned=False) -> Mesh:
    faces = FACES[:, ::-1] if turned else FACES
    return welded(np.concatenate([(CUBE * scale + np.array(p, np.float32))[faces] for p in places]).astype(np.float32))


def test_seal_knows_a_good_cube():
    seal = check_seal(cubes((0, 0, 0), (3, 0, 0)))
    assert seal.sealed
    assert (seal.parts, seal.triangles, seal.volume) == (2, 24, pytest.approx(2))
    hollow = welded(np.concatenate([(CUBE * 3)[FACES], (CUBE + 1)[FACES[:, ::-1]]]).astype(np.float32))
    assert check_seal(hollow).problems == ()
    assert check_seal(hollow).parts == 1


@pytest.mark.parametrize(
    ("mesh", "words"),
    [
        (Mesh(CUBE, np.empty((0, 3), np.int32)), "no triangles"),
        (welded(CUBE[FACES[1:]]), "hole"),
        (welded(CUBE[np.concatenate([FACES, FACES[:1]])]), "twice"),
        (welded(CUBE[np.concatenate([FACES, [[0, 0, 1]]])]), "without area"),
        (welded(CUBE[np.concatenate([FACES[:-1], FACES[-1:, ::-1]])]), "turned against"),
        (cubes((0, 0, 0), turned=True), "inside out"),
        (cubes((0, 0, 0), (1, 1, 0)), "more than two faces"),
        (cubes((0, 0, 0), (0.5, 0.5, 0.5)), "runs through itself"),
        (cubes((0, 0, 0), (1, 0.25, 0.25)), "runs through itself"),
        (cubes((0, 0, 0), (0.25, 0.25, 1)), "runs through itself"),
    ],
)
def test_seal_finds_each_fault(mesh, words):
    seal = check_seal(mesh)
    assert not seal.sealed
    assert any(words in problem for problem in seal.problems)
