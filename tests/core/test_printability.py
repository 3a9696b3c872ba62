"""What a print would not forgive: found where it was put, measured, and mended."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from drelo.core.form.base import Base
from drelo.core.form.relief import Part, relief
from drelo.core.outline.contour import polygon
from drelo.core.outline.outline import Outline
from drelo.core.outline.walls import thickened, thin_walls, tight_gaps
from drelo.core.piece.applying import apply
from drelo.core.piece.document import BasePlate, Document
from drelo.core.piece.drawn import DrawnShape
from drelo.core.piece.edits import Edit, PutDrawn
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.memo import Memo
from drelo.core.piece.shaping import shaped
from drelo.core.rehearsal.printability import weak_spots

NOZZLE = 0.4


def part(shape, height=1.2) -> Part:
    return Part(shape, height, "#101010", "part")


PLATE = Base("rectangle", margin=4)


def found(shapes, base=PLATE):
    return weak_spots(relief([part(s) for s in shapes], base, 0.01), NOZZLE)


@pytest.mark.parametrize("width", [0.1, 0.25, 0.36])
def test_a_thin_wall_is_found_and_measured(width):
    spots = found([shapely.box(0, 0, 10, 10), shapely.box(20, 0, 20 + width, 8)])
    assert [s.kind for s in spots] == ["thin wall"]
    assert spots[0].width == pytest.approx(width, abs=0.02)
    assert spots[0].at[0] == pytest.approx(20 + width / 2, abs=0.05)


@pytest.mark.parametrize("gap", [0.12, 0.3])
def test_a_gap_that_will_close_is_found_and_measured(gap):
    spots = found([shapely.box(0, 0, 10, 10), shapely.box(10 + gap, 0, 20, 10)])
    assert [s.kind for s in spots] == ["tight gap"]
    assert spots[0].width == pytest.approx(gap, abs=0.02)


def test_sound_shapes_have_no_weak_spot():
    round_ones = [shapely.Point(i * 12, 0).buffer(5, quad_segs=40) for i in range(4)]
    sharp = [shapely.Polygon([(0, 20), (10, 20), (5, 34)]), shapely.box(20, 20, 30, 30)]
    assert found([*round_ones, *sharp]) == ()


def test_walls_and_gaps_as_wide_as_the_nozzle_are_sound():
    wall = shapely.box(0, 0, NOZZLE + 0.01, 10)
    assert thin_walls(wall, NOZZLE) == []
    pair = shapely.union_all(np.array([shapely.box(0, 0, 5, 5), shapely.box(5.41, 0, 10, 5)]))
    assert tight_gaps(pair, NOZZLE) == []


def test_loose_parts_are_all_but_the_largest():
    spots = found([shapely.box(0, 0, 10, 10), shapely.box(30, 0, 34, 4)], Base("none"))
    assert [(s.kind, round(s.width, 3)) for s in spots] == [("loose part", 4.0)]


def test_the_inside_of_a_letter_cut_through_drops_out():
    ring = shapely.Point(0, 0).buffer(8).difference(shapely.Point(0, 0).buffer(4))
    spots = weak_spots(
        relief([part(ring, "through"), part(shapely.box(20, 0, 24, 4))], Base("rectangle"), 0.01), NOZZLE
    )
    assert [s.kind for s in spots] == ["loose part"]
    assert np.hypot(*spots[0].at) < 1


def rectangle(name: str, x: float, width: float, height: float = 20.0) -> DrawnShape:
    return DrawnShape(id=name, form="rectangle", at=(x, 0), width=width, height=height)


def piece(*shapes: DrawnShape, base: str = "rectangle") -> Document:
    document = apply(Document(), PutDrawn(things=shapes))
    return document.model_copy(update={"base": BasePlate(shape=base, filament=document.base.filament)})  # type: ignore[arg-type]


def done(document: Document, change) -> Document:
    """As the web makes an edit of what is asked of outlines."""
    evaluation = Evaluation(lambda _: b"", Memo())
    edit: Edit = change if change.do == "set-regions" else shaped(evaluation.workshop(document), change)
    return apply(document, edit)


@pytest.mark.parametrize(
    ("document", "kind"),
    [
        (piece(rectangle("a", 0, 10), rectangle("b", 20, 0.2)), "thin wall"),
        (piece(rectangle("a", 0, 10), rectangle("b", 20, 10), base="none"), "loose part"),
        (piece(rectangle("a", 0, 10)).model_copy(update={"default_height": 0.1}), "below a layer"),
    ],
)
def test_a_mend_leaves_nothing_of_what_it_mends(document, kind):
    before = Evaluation(lambda _: b"", Memo()).weak_places(document)
    assert [p.kind for p in before] == [kind]
    assert before[0].mend is not None
    assert before[0].width < before[0].least or kind == "loose part"
    after = Evaluation(lambda _: b"", Memo()).weak_places(done(document, before[0].mend))
    assert after == ()


def test_a_place_lies_on_the_sheet_where_its_outline_does():
    document = piece(rectangle("a", 0, 10), rectangle("b", 20, 0.2))
    evaluation = Evaluation(lambda _: b"", Memo())
    (place,) = evaluation.weak_places(document)
    (row,) = [r for r in evaluation.flat(document).regions if r.id == place.regions[0]]
    x, y, width, height = row.box
    assert x <= place.at[0] <= x + width
    assert y <= place.at[1] <= y + height
    # The base stands 3 mm out on the left of the first one, whose left side is at -5.
    assert place.at_solid[0] == pytest.approx(20 + 5 + 3, abs=0.2)


def test_only_the_thin_stretch_is_thickened_and_the_rest_keeps_its_nodes():
    # A block with a thin tail that runs out into a point.
    tail = Outline(polygon(np.array([(0, 0), (10, 0), (10, 4.9), (18, 5), (10, 5.1), (10, 10), (0, 10)], float)))
    (wider,) = thickened([tail], NOZZLE)
    area = wider.flattened(0.005)
    assert thin_walls(area, NOZZLE) == []
    assert area.intersection(shapely.box(-1, -1, 9, 11)).symmetric_difference(shapely.box(0, 0, 9, 10)).area < 1e-3
    assert area.bounds[2] == pytest.approx(18 + NOZZLE / 2, abs=0.05)
    block_nodes = {(0.0, 0.0), (10.0, 0.0), (10.0, 10.0), (0.0, 10.0)}
    nodes = {tuple(np.round(p, 6)) for p in wider.outer.curves[:, 0].tolist()}
    assert block_nodes <= nodes


def test_mends_one_after_the_other_keep_what_was_mended_before():
    document = piece(rectangle("a", 0, 10), rectangle("b", 20, 0.2), rectangle("c", 30, 0.25))
    for left in (1, 0):
        mend = Evaluation(lambda _: b"", Memo()).weak_places(document)[0].mend
        document = done(document, mend)
        evaluation = Evaluation(lambda _: b"", Memo())
        assert len(evaluation.weak_places(document)) == left
        assert len(evaluation.flat(document).regions) == 3
