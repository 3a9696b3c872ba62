"""What a print would not forgive: found where it was put, measured, and mended."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from drelo.core.outline.contour import polygon
from drelo.core.outline.outline import Outline
from drelo.core.outline.walls import thickened, thin_walls, tight_gaps
from drelo.core.piece.applying import apply
from drelo.core.piece.document import BasePlate, Document
from drelo.core.piece.drawn import DrawnShape
from drelo.core.piece.edits import Edit, PutDrawn
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.form_numbers import GripOptions, StampOptions
from drelo.core.piece.memo import Memo
from drelo.core.piece.prospects import Prospects
from drelo.core.piece.shaping import shaped
from drelo.core.rehearsal.settings import Manner, Printer
from drelo.core.rehearsal.troubles import Trouble
from drelo.core.solid.seal import check_seal
from drelo.formats.product import product_of, wrapping_of
from drelo.formats.rehearsal_out import RehearsalReport, trouble_of
from drelo.formats.threemf import read_3mf
from drelo.work.rehearsing import printed, spool_of

NOZZLE = 0.4
MANNER = Manner()


def test_walls_and_gaps_as_wide_as_the_nozzle_are_sound():
    wall = shapely.box(0, 0, NOZZLE + 0.01, 10)
    assert thin_walls(wall, NOZZLE) == []
    pair = shapely.union_all(np.array([shapely.box(0, 0, 5, 5), shapely.box(5.41, 0, 10, 5)]))
    assert tight_gaps(pair, NOZZLE) == []


def rectangle(name: str, x: float, width: float, height: float = 20.0) -> DrawnShape:
    return DrawnShape(id=name, form="rectangle", at=(x, 0), width=width, height=height)


def piece(*shapes: DrawnShape, base: str = "rectangle") -> Document:
    document = apply(Document(), PutDrawn(things=shapes))
    return document.model_copy(update={"base": BasePlate(shape=base, filament=document.base.filament)})  # type: ignore[arg-type]


def done(document: Document, change) -> Document:
    """As the web makes an edit of what is asked of outlines."""
    evaluation = Evaluation(lambda _: b"", Memo())
    is_operation = change.do in ("thicken", "offset", "tie")
    edit: Edit = shaped(evaluation.workshop(document), change) if is_operation else change
    return apply(document, edit)


def report_of(file: bytes, manner: Manner) -> RehearsalReport:
    bodies = read_3mf(file)
    return printed(bodies, [spool_of(body, []) for body in bodies], Printer(), manner)[1]


def prospects(document: Document) -> tuple[tuple[Trouble, ...], Prospects]:
    """What the rehearsal of a piece's own file finds, and where that lies on the sheet."""
    evaluation = Evaluation(lambda _: b"", Memo())
    file = product_of(evaluation.made(document, 0.008), "3mf", wrapping_of(document, "piece")).data
    manner = document.printing.manner.model_copy(update={"layer": document.layer})
    report = report_of(file, manner)
    found = tuple(trouble_of(trouble, report.corner) for trouble in report.troubles)
    return found, evaluation.prospects(document, found, manner, NOZZLE)


@pytest.mark.parametrize(
    ("document", "kind", "words"),
    [
        (piece(rectangle("a", 0, 10), rectangle("b", 20, 0.2)), "not printed", "Thicken it"),
        (piece(rectangle("a", 0, 10), rectangle("b", 10.2, 10)), "gap closes", "Grow it across the gap"),
        (piece(rectangle("a", 0, 10), rectangle("b", 20, 10), base="none"), "loose part", "Tie it"),
        (piece(rectangle("a", 0, 10)).model_copy(update={"default_height": 0.1}), "between layers", "Round to a layer"),
        (piece(rectangle("a", 0, 10)).model_copy(update={"default_height": 1.3}), "between layers", "Round to a layer"),
    ],
)
def test_a_mend_leaves_nothing_of_what_it_mends(document, kind, words):
    found, before = prospects(document)
    assert [t.kind for t in found] == [kind]
    (place,) = before.places
    assert place.mend is not None
    assert place.mend.words == words
    after, _ = prospects(done(document, place.mend.edit))
    assert [t.kind for t in after] == []


def test_a_sound_piece_has_nothing_to_mend():
    found, told = prospects(piece(rectangle("a", 0, 10), rectangle("b", 20, 10)))
    assert found == told.places == told.fewer == ()


def stamp_with(grip: GripOptions) -> Document:
    document = piece(rectangle("a", 0, 40, 30))
    return document.model_copy(update={"form": "stamp", "layer": 0.1, "stamp": StampOptions(grip=grip)})


def test_a_grip_that_hangs_is_made_a_part_of_its_own():
    joined = stamp_with(GripOptions(kind="knob"))
    found, told = prospects(joined)
    hanging = [place for t, place in zip(found, told.places, strict=True) if t.kind in ("overhang", "bridge")]
    assert hanging
    assert hanging[0].mend is not None
    assert hanging[0].mend.words == "Print the grip apart"
    apart, _ = prospects(done(joined, hanging[0].mend.edit))
    assert apart == ()


def test_what_is_printed_face_down_keeps_its_places_on_the_sheet():
    thin = piece(rectangle("a", 0, 10), rectangle("b", 20, 0.2, 8))
    (place,) = prospects(thin)[1].places
    over = thin.model_copy(update={"printing": thin.printing.model_copy(update={"face_down": True})})
    found, told = prospects(over)
    same = [p for t, p in zip(found, told.places, strict=True) if t.kind == "not printed"]
    assert same[0].at == pytest.approx(place.at, abs=0.1)


def test_what_is_printed_face_down_has_its_face_on_the_bed():
    document = piece(rectangle("a", 0, 10), rectangle("b", 20, 10))
    over = document.model_copy(update={"printing": document.printing.model_copy(update={"face_down": True})})
    up, down = (
        read_3mf(product_of(Evaluation(lambda _: b"", Memo()).made(d, 0.008), "3mf", wrapping_of(d, "p")).data)
        for d in (document, over)
    )
    for one, other in zip(up, down, strict=True):
        seal = check_seal(other.mesh)
        assert seal.sealed, seal.problems
        assert other.mesh.volume == pytest.approx(one.mesh.volume)
    # The base's thickness of 2 mm is now on top: the raised regions, 1.2 mm, are below.
    assert min(float(b.mesh.vertices[:, 2].min()) for b in down) == 0
    base = next(b for b in down if b.name == "base")
    assert float(base.mesh.vertices[:, 2].min()) == pytest.approx(1.2)


def test_flush_regions_say_how_fewer_changes_do():
    document = piece(rectangle("a", 0, 10), rectangle("b", 20, 10))
    two = document.model_copy(update={"default_height": 0.0, "default_filament": document.filaments[1].id})
    _, told = prospects(two)
    assert [f.words for f in told.fewer] == [
        "Rectangle raised 0.6 mm instead of flush",
        "Rectangle inlaid one layer deep",
    ]
    for fewer in told.fewer:
        changed = done(two, fewer.edit)
        file = product_of(
            Evaluation(lambda _: b"", Memo()).made(changed, 0.008), "3mf", wrapping_of(changed, "piece")
        ).data
        report = report_of(file, MANNER)
        assert len(report.changes) == fewer.changes == 1
        assert fewer.now > 1


def test_a_place_lies_on_the_sheet_where_its_outline_does():
    document = piece(rectangle("a", 0, 10), rectangle("b", 20, 0.2))
    (place,) = prospects(document)[1].places
    evaluation = Evaluation(lambda _: b"", Memo())
    (row,) = [r for r in evaluation.flat(document).regions if r.id == place.regions[0]]
    x, y, width, height = row.box
    assert x <= place.at[0] <= x + width
    assert y <= place.at[1] <= y + height


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
        mend = prospects(document)[1].places[0].mend
        assert mend is not None
        document = done(document, mend.edit)
        assert len(prospects(document)[0]) == left
        assert len(Evaluation(lambda _: b"", Memo()).flat(document).regions) == 3
