"""What will not print: each kind drawn, and found where it is with the value that it was drawn with."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import trimesh

from drelo.core.form.base import Base
from drelo.core.form.relief import Part, relief
from drelo.core.outline import walls
from drelo.core.outline.outline import only_areas
from drelo.core.outline.walls import tight_gaps
from drelo.core.rehearsal.feet import feet
from drelo.core.rehearsal.settings import Manner, Printer, Spool
from drelo.core.rehearsal.troubles import Trouble, troubles
from drelo.core.rehearsal.whole import rehearse
from drelo.core.solid.mesh import Mesh
from drelo.core.solid.raising import arrange_design, raise_body

PRINTER, MANNER = Printer(), Manner()


def box(width: float, depth: float, height: float, at=(0.0, 0.0, 0.0)) -> trimesh.Trimesh:
    solid = trimesh.creation.box([width, depth, height])
    solid.apply_translation(np.array(at) + np.array([width, depth, height]) / 2)
    return solid


def meshes(*solids: trimesh.Trimesh) -> list[Mesh]:
    whole = trimesh.util.concatenate(solids)
    return [Mesh(whole.vertices.astype(np.float32), whole.faces.astype(np.int32))]


def found(bodies: list[Mesh], printer: Printer = PRINTER, manner: Manner = MANNER) -> list[Trouble]:
    return list(troubles(bodies, rehearse(bodies, [Spool()] * len(bodies), printer, manner), printer, manner))


def raised(shapes, height: float = 1.2, base: Base | None = None) -> list[Mesh]:
    parts = [Part(shape, height, "#101010", "part") for shape in shapes]
    design = relief(parts, base or Base("none"), 0.01)
    return [raise_body(design, arrange_design(design))]


def test_a_sound_piece_has_none():
    disc, plate = shapely.Point(20, 20).buffer(15, quad_segs=32), Base("rectangle", margin=4)
    assert found(raised([disc], base=plate)) == []
    assert found(meshes(box(30, 20, 10))) == []


@pytest.mark.parametrize("width", [0.12, 0.2, 0.25])
def test_a_wall_without_a_line(width):
    wall = raised([shapely.box(0, 0, 20, 20), shapely.box(30, 0, 30 + width, 18)])
    (trouble,) = [t for t in found(wall) if t.kind == "not printed"]
    assert trouble.value == pytest.approx(width, rel=0.05)
    assert trouble.limit == pytest.approx(0.6 * 0.44)
    assert trouble.at[0] == pytest.approx(30 + width / 2, abs=0.2)
    assert (trouble.first, trouble.last) == (1, 6)


@pytest.mark.parametrize("width", [0.1, 0.3])
def test_a_gap_that_closes(width):
    halves = [shapely.box(0, 0, 20, 20), shapely.box(20 + width, 0, 40, 20)]
    (trouble,) = [t for t in found(raised(halves)) if t.kind == "gap closes"]
    assert trouble.value == pytest.approx(width, rel=0.1)
    assert trouble.at[0] == pytest.approx(20 + width / 2, abs=0.1)


def test_loose_parts_are_all_but_the_largest():
    apart = raised([shapely.box(0, 0, 10, 10), shapely.box(30, 0, 34, 4)])
    (trouble,) = found(apart)
    assert (trouble.kind, round(trouble.value, 3)) == ("loose part", 4.0)
    assert trouble.at == pytest.approx((32, 2), abs=2)
    # Things that should lie apart are no loose parts of each other.
    one, two = raised([shapely.box(0, 0, 10, 10)]), raised([shapely.box(30, 0, 34, 4)])
    both = rehearse([*one, *two], [Spool(), Spool(name="Other")], PRINTER, MANNER)
    assert troubles([*one, *two], both, PRINTER, MANNER, both.slices.areas) == ()


def test_the_inside_of_a_letter_cut_through_drops_out():
    ring = shapely.Point(0, 0).buffer(8).difference(shapely.Point(0, 0).buffer(4))
    parts = [Part(ring, "through", "#101010", "o"), Part(shapely.box(20, 0, 24, 4), 1.2, "#101010", "part")]
    design = relief(parts, Base("rectangle"), 0.01)
    (trouble,) = found([raise_body(design, arrange_design(design))])
    assert trouble.kind == "loose part"
    assert trouble.value == pytest.approx(8, abs=0.1)


def test_a_table_stands_on_legs_that_its_top_holds():
    legs = [box(3, 3, 6, (x, y, 0)) for x in (0, 27) for y in (0, 17)]
    table = rehearse(meshes(*legs, box(30, 20, 2, (0, 0, 6))), [Spool()], PRINTER, MANNER)
    standing = feet([table.slices.whole(n) for n in range(len(table.slices.tops))], table.slices.tops)
    assert [(round(f.alone, 2), f.is_held) for f in standing] == [(6.0, True)] * 4
    # A fifth leg that ends below the top stands by itself.
    short = rehearse(meshes(*legs, box(3, 3, 4, (12, 8, 0)), box(30, 20, 2, (0, 0, 6))), [Spool()], PRINTER, MANNER)
    standing = feet([short.slices.whole(n) for n in range(len(short.slices.tops))], short.slices.tops)
    assert sorted((round(f.alone, 2), f.is_held) for f in standing)[0] == (4.0, False)


def test_what_begins_in_the_air():
    bodies = meshes(box(20, 20, 3), box(6, 6, 2, (40, 0, 4)))
    (trouble,) = found(bodies)
    assert trouble.kind == "starts in the air"
    assert trouble.first == 21
    assert trouble.at == pytest.approx((43, 3), abs=3)
    assert trouble.value == pytest.approx(36, rel=0.01)


def test_an_overhang_with_its_area():
    bodies = meshes(box(10, 10, 5), box(25, 10, 3, (0, 0, 5)))
    (trouble,) = [t for t in found(bodies) if t.kind == "overhang"]
    assert trouble.value == pytest.approx(150, rel=0.03)
    assert trouble.limit == pytest.approx(15, rel=0.03)
    assert trouble.first == 26


def test_a_slope_of_45_degrees_holds_and_a_flatter_one_does_not():
    def wedge(out: float) -> list[Mesh]:
        corners = [(0, 0), (10, 0), (10 + out, 6), (0, 6)]
        return meshes(trimesh.PointCloud([(x, y, z) for x, z in corners for y in (0, 12)]).convex_hull)

    assert [t.kind for t in found(wedge(5.5))] == []
    assert "overhang" in {t.kind for t in found(wedge(30))}


@pytest.mark.parametrize(("span", "kinds"), [(6.0, []), (24.0, ["bridge"])])
def test_a_bridge_with_its_span(span, kinds):
    legs = box(8, 20, 5), box(8, 20, 5, (8 + span, 0, 0))
    result = found(meshes(*legs, box(16 + span, 20, 2, (0, 0, 5))))
    assert [t.kind for t in result] == kinds
    for trouble in result:
        assert trouble.value == pytest.approx(min(span, 20), rel=0.1)
        assert trouble.at[0] == pytest.approx(8 + span / 2, abs=span / 2)


def test_a_tower_on_a_small_foot_does_not_hold():
    (trouble,) = found(meshes(box(3, 3, 40)))
    assert trouble.kind == "little hold"
    assert trouble.value == pytest.approx(9, rel=0.02)


def test_too_large_and_too_tall():
    small = PRINTER.model_copy(update={"width": 30.0, "depth": 20.0, "height": 8.0})
    kinds = {t.kind: t for t in found(meshes(box(25, 25, 10)), small)}
    assert set(kinds) == {"too large", "too tall"}
    assert kinds["too tall"].value == pytest.approx(10)
    assert found(meshes(box(18, 28, 5)), small) == []
    round_ = PRINTER.model_copy(update={"bed": "round", "width": 30.0})
    (trouble,) = found(meshes(box(25, 25, 5)), round_)
    assert trouble.value == pytest.approx(25 * 2**0.5, rel=1e-3)


def test_a_height_between_two_layers():
    (trouble,) = found(meshes(box(20, 20, 3.1)))
    assert trouble.kind == "between layers"
    assert trouble.value == pytest.approx(3.1)
    assert abs(trouble.limit - trouble.value) == pytest.approx(0.1)
    assert found(meshes(box(20, 20, 3.1)), manner=MANNER.model_copy(update={"layer": 0.1, "first_layer": 0.1})) == []


@pytest.mark.parametrize("nozzle", [0.3, 0.4, 0.8])
@pytest.mark.parametrize("seed", range(3))
def test_gaps_between_many_parts_are_those_of_all_at_once(seed, nozzle, monkeypatch):
    """Boxes, discs and hooks on a grid, some nearer to each other than the nozzle, some within a hair of it."""
    rng = np.random.default_rng(seed)
    shapes = []
    for x in range(0, 36, 3):
        for y in range(0, 36, 3):
            box = shapely.box(x, y, x + rng.uniform(0.8, 3.0), y + rng.choice([2.2, 2.6, 3 - nozzle]))
            disc = shapely.Point(x + 1.5, y + 1.5).buffer(rng.choice([0.7, 1.3, 1.5 - nozzle / 2]))
            hook = shapely.box(x, y, x + 2, y + 2) - shapely.box(x + 0.8, y + 0.5, x + 1.1, y + 3)
            shapes.append((box, disc, hook)[rng.integers(3)])
    section = only_areas(shapely.union_all(shapes))
    at_once = tight_gaps(section, nozzle)
    monkeypatch.setattr(walls, "MANY", 10)
    assert len(shapely.get_parts(section)) > 10
    by_parts = tight_gaps(section, nozzle)
    assert len(by_parts) == len(at_once) > 10
    # Arcs of what is grown together and of what is grown alone have other corners.
    off = shapely.symmetric_difference(shapely.union_all(at_once), shapely.union_all(by_parts))
    assert off.area < 0.01
