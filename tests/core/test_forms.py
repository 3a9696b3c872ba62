"""Stamp, cutter and nameplate, and edges that fall off: sizes, hands, one part, sealed bytes."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from benchmarks.sealing import FORMS, design_of
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from drelo.core.form.base import Base
from drelo.core.form.columns import Design
from drelo.core.form.cutter import Cutter, cutter, nearest_shapes
from drelo.core.form.edges import Edge, pocket_profile, profile
from drelo.core.form.grip import Grip
from drelo.core.form.nameplate import Fixing, Nameplate, nameplate
from drelo.core.form.relief import Part, Relief, relief
from drelo.core.form.stamp import Stamp, stamp
from drelo.core.outline.joining import joining_growth, links
from drelo.core.solid.mesh import Mesh
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.seal import check_seal
from drelo.core.solid.surface import plan, surface
from drelo.formats.stl import read_stl, write_stl
from tests.refusals import refused

TOLERANCE = 0.02
L_SHAPE = shapely.Polygon([(0, 0), (30, 0), (30, 10), (10, 10), (10, 40), (0, 40)])


def built(design: Design) -> Mesh:
    """The mesh as a slicer would read it, after its seal was checked."""
    mesh = read_stl(write_stl(raise_body(design, arrange_design(design))))
    seal = check_seal(mesh)
    assert seal.sealed, seal.problems
    return mesh


def parts_of(mesh: Mesh) -> int:
    return int(mesh.shells().max()) + 1


def section(mesh: Mesh, z: float) -> BaseGeometry:
    """What a plane through the mesh cuts, as areas."""
    t = mesh.corners
    above = t[:, :, 2] > z
    cut = t[above.any(axis=1) & ~above.all(axis=1)]
    ends = []
    for i in range(3):
        a, b = cut[:, i], cut[:, (i + 1) % 3]
        crosses = (a[:, 2] > z) != (b[:, 2] > z)
        share = np.where(crosses, (z - a[:, 2]) / np.where(crosses, b[:, 2] - a[:, 2], 1), np.nan)
        ends.append(a[:, :2] + share[:, None] * (b - a)[:, :2])
    lines = np.stack(ends, axis=1)
    segments = [shapely.LineString(np.round(s[~np.isnan(s[:, 0])], 6)) for s in lines]
    faces = shapely.get_parts(shapely.polygonize([shapely.union_all([s for s in segments if s.length > 0])]))
    inside = [f for f in faces if _covered(f.representative_point(), segments)]
    return shapely.union_all(inside)


def _covered(point: shapely.Point, segments: list[shapely.LineString]) -> bool:
    ray = shapely.LineString([(point.x, point.y), (point.x + 1e4, point.y + 7.7)])
    return sum(ray.crosses(s) for s in segments) % 2 == 1


def test_a_stamp_prints_what_was_drawn() -> None:
    mesh = built(stamp([L_SHAPE], Stamp(margin=2, mark=False), TOLERANCE))
    assert mesh.size[2] == pytest.approx(3.2 + 2.5, abs=1e-5)
    face = section(mesh, 5.69)
    printed = affinity.scale(face, -1, 1)
    aligned = affinity.translate(printed, -printed.bounds[0], -printed.bounds[1])
    assert shapely.symmetric_difference(aligned, L_SHAPE).area < 0.05 * L_SHAPE.area
    # Not the other hand: an L turned over is no L.
    assert shapely.symmetric_difference(affinity.translate(face, -face.bounds[0], -face.bounds[1]), L_SHAPE).area > 100


def test_a_stamps_lines_widen_downward_and_gaps_stay_open() -> None:
    bars = shapely.union_all([shapely.box(0, 0, 2, 20), shapely.box(2.7, 0, 4.7, 20), shapely.box(12, 0, 14, 20)])
    mesh = built(stamp([bars], Stamp(mark=False), TOLERANCE))
    face, foot = section(mesh, 5.65), section(mesh, 3.25)
    assert foot.area > face.area * 1.1
    assert shapely.get_num_geometries(foot) == 3
    wide = 2.4 * math.tan(math.radians(8))
    alone = min(shapely.get_parts(foot), key=lambda g: g.bounds[0])
    assert alone.bounds[2] - alone.bounds[0] == pytest.approx(2 + 2 * wide, abs=0.08)


@pytest.mark.parametrize("kind", ["knob", "bar"])
def test_a_stamp_stands_on_its_grip(kind: str) -> None:
    design = stamp([L_SHAPE], Stamp(grip=Grip(kind, 12, 15, 24)), TOLERANCE)  # type: ignore[arg-type]
    mesh = built(design)
    assert parts_of(mesh) == 1
    assert mesh.size[2] == pytest.approx(15 + 3.2 + 2.5, abs=1e-5)
    stem = section(mesh, 0.5)
    assert stem.bounds[3] - stem.bounds[1] == pytest.approx(12, abs=0.05)


@pytest.mark.parametrize("kind", ["knob", "bar"])
@pytest.mark.parametrize("art", [L_SHAPE, shapely.box(0, 0, 60, 30)], ids=["tall", "wide"])
def test_a_grip_of_its_own_fits_the_hole_in_the_back(kind: str, art: BaseGeometry) -> None:
    grip = Grip(kind, 12, 15, 24, "peg", clearance=0.2)  # type: ignore[arg-type]
    numbers = Stamp(shape="rectangle", grip=grip, mark=False)
    design = stamp([art], numbers, TOLERANCE)
    arrangement = arrange_design(design)
    plate, own = (raise_body(design, arrangement, number) for number in range(2))
    for mesh in (plate, own):
        seal = check_seal(read_stl(write_stl(mesh)))
        assert seal.sealed, seal.problems
        assert parts_of(mesh) == 1
        assert mesh.corners[:, :, 2].min() == 0
    assert not shapely.box(*_box(plate)).intersects(shapely.box(*_box(own)))
    whole = section(plate, 2.6)
    hole = shapely.difference(whole, section(plate, 0.3))
    peg = section(own, 15 + 1.0)
    # Turned over, the peg has the hole's shape less the clearance all round.
    at, to = peg.centroid, hole.centroid
    laid = affinity.translate(affinity.scale(peg, 1, -1, origin=at), to.x - at.x, to.y - at.y)
    assert shapely.hausdorff_distance(laid.boundary, hole.boundary) < 0.32
    assert hole.buffer(-0.17).covers(laid)
    assert own.size[2] < 15 + 3.2 - 0.8
    # It widens no faster than 45 degrees on its way up, so that nothing hangs.
    for z in np.arange(0.1, 14.9, 0.4):
        assert section(own, z).buffer(0.45).covers(section(own, z + 0.4).buffer(-1e-3))


def _box(mesh: Mesh) -> tuple[float, float, float, float]:
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def test_a_peg_needs_room_in_its_plate() -> None:
    with refused("too thin for a peg"):
        stamp([L_SHAPE], Stamp(thickness=1.5, grip=Grip("knob", joint="peg")), TOLERANCE)
    with refused("wider than its grip"):
        stamp([L_SHAPE], Stamp(grip=Grip("knob", 6, joint="peg", peg=7)), TOLERANCE)
    with refused("no room for a peg"):
        stamp([shapely.box(0, 0, 30, 0.5)], Stamp(grip=Grip("knob", 12, joint="peg")), TOLERANCE)
    # Where the middle is empty, the grip sits where the plate is widest.
    ring = shapely.Point(0, 0).buffer(30).difference(shapely.Point(4, 0).buffer(18))
    design = stamp([ring], Stamp(margin=1, grip=Grip("knob", 12, joint="peg")), TOLERANCE)
    assert parts_of(raise_body(design, arrange_design(design), 0)) == 1


def test_a_socket_goes_into_the_back_and_not_through() -> None:
    mesh = built(stamp([shapely.box(0, 0, 40, 40)], Stamp(grip=Grip("socket", 8, 2.2), mark=False), TOLERANCE))
    holes = section(mesh, 2.5).area - section(mesh, 0.3).area
    assert holes == pytest.approx(math.pi * 16, rel=0.01)
    marked = built(stamp([shapely.box(0, 0, 40, 40)], Stamp(), TOLERANCE))
    # The mark's outline, 0.8 wide, and no more: what lies over it needs no support.
    mark = shapely.Polygon([(0, 0), (8, 0), (4, 6.4)])
    groove = mark.area - mark.buffer(-0.8).area
    assert section(marked, 1.0).area - section(marked, 0.3).area == pytest.approx(groove, rel=0.01)
    with refused("goes through"):
        stamp([L_SHAPE], Stamp(grip=Grip("socket", 8, 3)), TOLERANCE)


def test_a_stamp_says_what_will_not_print() -> None:
    thin = shapely.union_all([shapely.box(0, 0, 0.5, 20), shapely.box(0, 0, 20, 6)])
    design = stamp([thin], Stamp(depth=0.6), TOLERANCE)
    assert any("0.5" in r.text and "break off" in r.text for r in design.remarks)
    assert any("takes up ink" in r.text for r in design.remarks)
    with refused("must fit"):
        stamp([L_SHAPE], Stamp(fit=(30, 30, 30)), TOLERANCE)


def test_a_biscuit_has_the_drawn_size() -> None:
    mesh = built(cutter([L_SHAPE], Cutter(), TOLERANCE))
    assert parts_of(mesh) == 1
    assert mesh.size[2] == pytest.approx(14, abs=1e-5)
    for z in (1.0, 8.0, 13.9):
        blade = section(mesh, z)
        hole = shapely.Polygon(max(shapely.get_parts(blade), key=lambda g: g.area).interiors[0])
        assert hole.area == pytest.approx(L_SHAPE.area, rel=1e-4)
        outside = shapely.Polygon(max(shapely.get_parts(blade), key=lambda g: g.area).exterior)
        wanted = 1.2 + 4 if z == 1.0 else 1.2 if z == 8.0 else 0.5
        assert outside.bounds[2] - outside.bounds[0] == pytest.approx(30 + 2 * wanted, abs=0.08)


def test_inner_lines_become_ribs_that_are_held_and_end_short() -> None:
    ring = shapely.box(0, 0, 60, 60)
    eyes = [shapely.box(15, 35, 25, 45), shapely.box(38, 35, 48, 45)]
    mesh = built(cutter([ring, *eyes], Cutter(), TOLERANCE))
    assert parts_of(mesh) == 1
    assert shapely.get_num_geometries(section(mesh, 9.9)) == 3
    assert shapely.get_num_geometries(section(mesh, 10.1)) == 1
    assert shapely.get_num_geometries(section(mesh, 2.9)) == 1


def test_a_large_hole_is_cut_when_wanted() -> None:
    ring = shapely.difference(shapely.Point(0, 0).buffer(30), shapely.Point(0, 0).buffer(12))
    both = built(cutter([ring], Cutter(holes=True), TOLERANCE))
    assert parts_of(both) == 1
    assert shapely.get_num_geometries(section(both, 13.9)) == 2
    only = built(cutter([ring], Cutter(ribs=False), TOLERANCE))
    assert shapely.get_num_geometries(section(only, 5)) == 1


def test_a_cutter_says_where_dough_tears() -> None:
    waist = shapely.union_all([shapely.box(0, 0, 20, 20), shapely.box(8, 20, 12, 40), shapely.box(0, 40, 20, 60)])
    assert any("4.0 mm" in r.text and "tears" in r.text for r in cutter([waist], Cutter(), TOLERANCE).remarks)
    with refused("deeper"):
        cutter([waist], Cutter(depth=5), TOLERANCE)


def letters(*places: tuple[float, float]) -> list[Part]:
    return [Part(affinity.translate(shapely.box(0, 0, 5, 8), x, y), 1.8, "#ffffff", "letters") for x, y in places]


@given(
    st.lists(st.tuples(st.floats(0, 90), st.floats(0, 30)), min_size=1, max_size=7), st.sampled_from(["grow", "tie"])
)
@settings(max_examples=25, deadline=None)
def test_a_nameplate_is_always_one_part(places: list[tuple[float, float]], join: str) -> None:
    design = nameplate(letters(*places), Nameplate(join=join), TOLERANCE)  # type: ignore[arg-type]
    mesh = built(design)
    assert parts_of(mesh) == 1
    assert mesh.size[2] == pytest.approx(2.4 + 1.8, abs=1e-5)


def test_the_backing_grows_just_enough() -> None:
    design = nameplate(letters((0, 0), (25, 0)), Nameplate(fixing=Fixing("none")), TOLERANCE)
    assert joining_growth([p.shape for p in letters((0, 0), (25, 0))]) == pytest.approx(10)
    assert any("10.05 mm instead of 3 mm" in r.text for r in design.remarks)


def test_a_loop_leaves_its_hole_open() -> None:
    plain = built(nameplate(letters((0, 0), (8, 0)), Nameplate(fixing=Fixing("none")), TOLERANCE))
    for side in ("left", "right", "top", "bottom"):
        mesh = built(nameplate(letters((0, 0), (8, 0)), Nameplate(fixing=Fixing(side=side)), TOLERANCE))  # type: ignore[arg-type]
        across = 0 if side in ("left", "right") else 1
        assert mesh.size[across] > plain.size[across] + 4
        slab = section(mesh, 1.0)
        assert sum(len(p.interiors) for p in shapely.get_parts(slab)) == 1
        hole = shapely.Polygon(slab.interiors[0])
        assert hole.area == pytest.approx(math.pi * 4, rel=0.02)
    screwed = built(nameplate(letters((0, 0), (8, 0)), Nameplate(fixing=Fixing("screws")), TOLERANCE))
    assert len(section(screwed, 1.0).interiors) == 2


@pytest.mark.parametrize("kind", ["bevel", "round", "draft"])
def test_edges_fall_off_in_steps_no_higher_than_a_layer(kind: str) -> None:
    edge = Edge(kind, 0.7, 10)  # type: ignore[arg-type]
    for steps in (profile(edge, 2.0, 0.2), pocket_profile(edge, 2.0, 0.2)):
        insets, tops = np.array(steps).T
        assert (np.diff(insets) > 0).all()
        assert (np.diff(tops) > 0).all()
        assert tops[-1] == pytest.approx(2.0)
        assert (np.diff(tops)[insets[1:] > 0][1:-1] <= 0.2 + 1e-9).all()


def test_a_bevel_takes_its_volume_off() -> None:
    square = shapely.box(0, 0, 20, 20)
    base = Base("none")
    straight = built(relief([Part(square, 3.0, "#ffffff", "")], base, TOLERANCE))
    bevel = built(relief([Part(square, 3.0, "#ffffff", "", edge=Edge("bevel", 1.0))], base, TOLERANCE))
    assert straight.volume == pytest.approx(1200, rel=1e-9)
    # Four slanting sides and four corners; the steps halve what they cut.
    taken = 4 * 20 * 0.5 - 4 * 2 / 3 * 1.0
    assert straight.volume - bevel.volume == pytest.approx(taken, rel=0.05)
    assert bevel.size == straight.size


def test_a_draft_keeps_the_drawn_face_and_covers_nothing_higher() -> None:
    edge = Edge("draft", angle=20)
    parts = [
        Part(shapely.box(5, 5, 25, 25), 2.0, "#ffffff", "face", edge=edge, number=0),
        Part(shapely.box(25.2, 5, 35, 25), 3.0, "#ffffff", "higher", number=1),
    ]
    mesh = built(relief(parts, Base("rectangle", 1, 2.0), TOLERANCE))
    low, face, high = (section(mesh, z) for z in (2.1, 3.95, 4.5))
    assert face.area == pytest.approx(400 + 9.8 * 20, rel=1e-3)
    assert high.area == pytest.approx(9.8 * 20, rel=1e-3)
    # The foot stands out by tan 20° of nearly its height, up to the edge of the base and to what is higher.
    assert low.bounds == pytest.approx((5 - 0.655 - 4, 5 - 0.655 - 4, 35 - 4, 25.655 - 4), abs=0.1)
    alone = built(relief(parts[:1], Base("none"), TOLERANCE))
    assert section(alone, 1.95).area == pytest.approx(400, rel=1e-3)


def test_a_cutter_has_a_handle_and_an_eased_grip() -> None:
    two = [shapely.Point(0, 0).buffer(15), shapely.Point(50, 10).buffer(12)]
    plain = built(cutter(two, Cutter(), TOLERANCE))
    held = cutter(two, Cutter(handle=True), TOLERANCE)
    mesh = built(held)
    assert parts_of(mesh) == 1
    assert mesh.size == pytest.approx(plain.size, abs=0.01)
    # The bar lies as high as the flange, across the dough, and nowhere higher.
    assert section(mesh, 1.0).area > section(plain, 1.0).area + 14 * 25
    assert section(mesh, 5.0).area == pytest.approx(section(plain, 5.0).area, rel=1e-4)
    assert [r.remedy for r in cutter(two, Cutter(), TOLERANCE).remarks if r.remedy] == ["handle"]
    assert not [r for r in held.remarks if r.remedy]
    eased = built(cutter(two[:1], Cutter(flange_round=1.0, flange_height=4), TOLERANCE))
    at_bed, middle, above = (section(eased, z).area for z in (0.05, 2.0, 3.95))
    assert at_bed < middle
    assert above < middle


def test_a_sunk_edge_opens_upward() -> None:
    part = Part(shapely.box(5, 5, 25, 25), -1.0, "#ffffff", "", edge=Edge("bevel", 0.6))
    mesh = built(relief([part], Base("rectangle", 5, 2.0), TOLERANCE))
    openings = [
        sum(shapely.Polygon(h).area for h in shapely.get_parts(section(mesh, z))[0].interiors)
        for z in (1.05, 1.7, 1.95)
    ]
    assert openings[0] < openings[1] < openings[2] <= 400 + 1e-6


def test_rim_flat_top_block_and_clip() -> None:
    two = [Part(shapely.box(0, 0, 10, 10), 1.0, "#ffffff", ""), Part(shapely.box(20, 0, 30, 10), 2.0, "#ffffff", "")]
    flat = built(relief(two, Base("circle"), TOLERANCE, numbers=Relief(flat_top=True, rim_width=2, rim_height=2)))
    tops = flat.corners[(np.ptp(flat.corners[:, :, 2], axis=1) == 0)][:, 0, 2]
    assert set(np.round(tops, 6)) == {0.0, 2.0, 4.0}
    block = built(relief(two, Base("block", block=(50, 40), thickness=8), TOLERANCE))
    assert block.size == pytest.approx((50, 40, 10))
    small = Base("block", block=(20, 20))
    assert built(relief(two, small, TOLERANCE)).size[0] == pytest.approx(30)
    assert built(relief(two, small, TOLERANCE, numbers=Relief(clip=True))).size[0] == pytest.approx(20)


@given(st.lists(st.tuples(st.floats(0, 200), st.floats(0, 200)), min_size=2, max_size=80))
@settings(max_examples=30, deadline=None)
def test_links_are_a_shortest_tree(places: list[tuple[float, float]]) -> None:
    dots = [shapely.Point(p).buffer(0.5, quad_segs=2) for p in places]
    found = links(dots)
    assert len(found) == len(dots) - 1
    # Prim's tree over all distances has the same length.
    distance = shapely.distance(np.array(dots)[:, None], np.array(dots)[None, :])
    reached, total = {0}, 0.0
    best = distance[0].copy()
    while len(reached) < len(dots):
        rest = [i for i in range(len(dots)) if i not in reached]
        near = min(rest, key=lambda i: best[i])
        total += best[near]
        reached.add(near)
        best = np.minimum(best, distance[near])
    assert sum(link.length for link in found) == pytest.approx(total, abs=1e-6)


@pytest.mark.parametrize("number", range(12))
def test_random_maps_are_sealed_in_every_form_and_filament(number: int) -> None:
    rng = np.random.default_rng([number, 77])
    design = design_of(FORMS[number % len(FORMS)], rng)
    arrangement = arrange_design(design)
    for filament in (None, *range(len(design.filaments))):
        mesh = raise_body(design, arrangement, filament)
        if len(mesh.faces):
            seal = check_seal(read_stl(write_stl(mesh)))
            assert seal.sealed, seal.problems


def test_raised_and_flush_letters_of_one_filament_are_sealed() -> None:
    flush = Part(shapely.box(0, 0, 10, 10), 0.0, "#ffffff", "a")
    raised = Part(shapely.box(10, 0, 20, 10), 1.0, "#ffffff", "b")
    design = nameplate([flush, raised], Nameplate(frame_width=3.5), TOLERANCE)
    arrangement = arrange_design(design)
    for filament in (None, 0, 1):
        assert check_seal(read_stl(write_stl(raise_body(design, arrangement, filament)))).sealed


def test_what_a_stamp_inks_is_told_apart_by_region():
    one, other = shapely.box(0, 0, 10, 6), shapely.box(8, 0, 20, 6)
    design = stamp([one, other], Stamp(), 0.02)
    a = arrange_design(design)
    owner = np.array([*design.owners, -1])[a.top]
    areas = [float(a.areas[owner == number].sum()) for number in (0, 1)]
    assert areas == pytest.approx([48, 72], abs=0.01)
    whole = stamp([shapely.union(one, other)], Stamp(), 0.02)
    assert raise_body(design, a).volume == pytest.approx(raise_body(whole, arrange_design(whole)).volume, rel=1e-6)
    shown = surface(plan(a), design.columns)
    assert {design.owners[run.layer] for run in shown.runs} == {-1, 0, 1}


def test_each_part_of_a_cutter_counts_as_the_nearest_shape_s():
    pear, seed, leaf = shapely.box(0, 0, 30, 40), shapely.box(10, 10, 20, 20), shapely.box(40, 0, 60, 20)
    # The cutter is built mirrored: its blade round the leaf lies on the left.
    points = np.array([[-62.0, 10.0], [3.0, 20.0], [-15.0, 15.0], [-15.0, 25.0]])
    assert nearest_shapes([pear, seed, leaf], points).tolist() == [2, 0, 1, 0]
