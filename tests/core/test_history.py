"""A piece's past in words: what a step changed, steps as lines, and which of them stay."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel

from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document, Printing, RegionChoice
from drelo.core.piece.drawn import DrawnLine, DrawnPath, DrawnShape, Lettering
from drelo.core.piece.edits import MarkDrawn, PutDrawn, Reshape, SetBase, SetDefaults, SetForm, SetPrinting
from drelo.core.piece.form_numbers import EdgeOptions, GripOptions, StampOptions
from drelo.core.piece.history import labels
from drelo.core.piece.history.lines import SOON, Step, lines
from drelo.core.piece.history.telling import Told, told
from drelo.core.piece.history.thinning import DAY, EVERY, HOURLY, Kept, that_go
from drelo.core.piece.pictures import Mark, PlacedPicture, TraceSettings

NOW = 1_772_366_400.0
MARK = Mark(anchor=(1, 1), box=(0, 0, 2, 2))
CIRCLE = DrawnShape(id="c", form="circle", at=(0, 0), width=10, height=10)


def of(found: tuple[Told, ...]) -> list[tuple[object, ...]]:
    return [(t.what, t.how, t.before, t.after) for t in found]


def test_a_number_is_told_from_what_to_what_with_its_unit():
    before = Document()
    [one] = told(before, apply(before, SetBase(thickness=3.2)))
    assert (one.what, one.before, one.after, one.unit) == ("Base thickness", 2.0, 3.2, "mm")


def test_nested_numbers_of_a_form_are_found():
    before = Document(form="stamp", stamp=StampOptions(grip=GripOptions(kind="knob", diameter=16)))
    after = apply(before, SetForm(stamp=StampOptions(grip=GripOptions(kind="knob", diameter=18))))
    assert of(told(before, after)) == [("Grip width", "set", 16.0, 18.0)]


def changed_somewhere(model: BaseModel, path: str) -> Iterator[tuple[str, BaseModel]]:
    """The model with one of its values changed, each of them in turn."""
    for name, value in model.__dict__.items():
        place = f"{path}.{name}"
        if isinstance(value, BaseModel):
            for where, other in changed_somewhere(value, place):
                yield where, model.model_copy(update={name: other})
        elif isinstance(value, bool):
            yield place, model.model_copy(update={name: not value})
        elif isinstance(value, int | float) or value is None:
            yield place, model.model_copy(update={name: (value or 0) + 1.25})
        elif isinstance(value, str):
            another = Document().filaments[-1].id if name == "filament" else f"not {value}"
            yield place, model.model_copy(update={name: another})


OF_A_DOCUMENT = [
    (where, other)
    for name in ("relief", "stamp", "cutter", "nameplate", "printing", "base")
    for where, other in changed_somewhere(Document().__dict__[name], name)
]


@pytest.mark.parametrize(("where", "other"), OF_A_DOCUMENT, ids=[where for where, _ in OF_A_DOCUMENT])
def test_every_number_of_every_form_is_told(where, other):
    name = where.split(".")[0]
    before = Document()
    [one] = told(before, before.model_copy(update={name: other}))
    assert where.startswith(one.path)
    assert one.what
    assert one.before != one.after or one.how == "changed"


def test_an_edge_of_a_region_is_told_by_its_kind():
    before = Document(regions=(RegionChoice(id="r", mark=MARK, name="Leaf", height=1.2),))
    bevelled = before.regions[0].model_copy(update={"edge": EdgeOptions(kind="bevel")})
    after = before.model_copy(update={"regions": (bevelled,)})
    assert [(t.what, t.before, t.after) for t in told(before, after)] == [("Leaf edge", None, "bevel")]


def test_a_region_is_told_by_its_name_and_from_the_height_that_it_had():
    before = Document(default_height=1.2)
    choice = RegionChoice(id="r", mark=MARK, name="Beet", height=1.6)
    middle = before.model_copy(update={"regions": (choice.model_copy(update={"height": None}),)})
    after = before.model_copy(update={"regions": (choice,)})
    assert of(told(middle, after)) == [("Beet", "set", 1.2, 1.6)]


def test_what_happens_to_many_alike_is_told_once():
    before = Document()
    choices = tuple(RegionChoice(id=f"r{i}", mark=MARK, height=2.0) for i in range(5))
    [one] = told(before, before.model_copy(update={"regions": choices}))
    assert (one.what, one.before, one.after, one.count) == ("5 regions", 1.2, 2.0, 5)


def test_things_come_go_and_change_by_their_own_names():
    words = Lettering(id="w", text="Fern\nand moss", at=(0, 0), height=8)
    empty = Document()
    one = apply(empty, PutDrawn(things=(CIRCLE, words)))
    assert of(told(empty, one)) == [("2 shapes", "added", None, None)]
    assert of(told(apply(empty, PutDrawn(things=(CIRCLE,))), one)) == [("Words “Fern and moss”", "added", None, None)]
    two = apply(one, PutDrawn(things=(words.model_copy(update={"text": "Fern"}),)))
    assert of(told(one, two)) == [("Words “Fern” words", "set", "Fern and moss", "Fern")]
    three = apply(two, MarkDrawn(ids=("c",), name="Sun", locked=True))
    assert ("Sun locked", "set", False, True) in of(told(two, three))
    assert of(told(two, empty.model_copy(update={"drawn": (two.drawn[0],)})))[0][1] == "removed"


def test_a_thing_that_comes_with_its_height_is_told_once_and_later_by_its_own_name():
    before = Document()
    one = apply(before, PutDrawn(things=(CIRCLE.model_copy(update={"name": "Sun"}),), height=2.0))
    assert of(told(before, one)) == [("Sun", "added", None, None)]
    choice = one.regions[0].model_copy(update={"height": 3.0})
    assert of(told(one, one.model_copy(update={"regions": (choice,)}))) == [("Sun", "set", 2.0, 3.0)]


def test_a_picture_traced_otherwise_is_told_with_the_mode():
    picture = PlacedPicture(id="p", asset="0" * 64, name="badge.png", width=10, height=10)
    coloured = picture.model_copy(update={"trace": TraceSettings(mode="colours")})
    before = Document(pictures=(picture,))
    assert of(told(before, Document(pictures=(coloured,)))) == [("badge.png trace as", "set", "ink", "colours")]


def test_a_change_of_shape_is_told_by_what_was_done():
    before = Document(drawn=(CIRCLE,))
    edit = Reshape(name="unite", put=(DrawnPath(id="u", path="M0 0L1 0L1 1Z"),), drop=("c",))
    found = told(before, apply(before, edit), edit)
    assert of(found)[0] == ("Shapes united", "done", None, None)
    assert {t.how for t in found[1:]} == {"added", "removed"}


def test_filaments_are_told_by_their_names():
    before = Document()
    assert of(told(before, apply(before, SetDefaults(filament="moss")))) == [
        ("Filament of new regions", "set", "Cream", "Moss")
    ]


def test_nothing_changed_is_nothing_to_tell():
    assert told(Document(), Document()) == ()
    assert told(Document(), apply(Document(), SetPrinting(copies=1))) == ()


def leaves(model: type[BaseModel], path: str = "") -> Iterator[str]:
    """Paths of all fields under a model whose fields are told one by one."""
    for name, field in model.model_fields.items():
        inner = field.annotation
        here = f"{path}{name}"
        if here in labels.LABELS:
            yield here
        elif isinstance(inner, type) and issubclass(inner, BaseModel):
            yield from leaves(inner, f"{here}.")
        else:
            yield here


# Rows are told by name as they come and go.
ROWS = {"pictures", "drawn", "regions", "filaments", "version"}


def test_everything_that_can_be_changed_has_a_name():
    assert [path for path in leaves(Document) if path not in labels.LABELS and path not in ROWS] == []
    for name, rows in (
        ("pictures", (PlacedPicture,)),
        ("drawn", (DrawnPath, DrawnLine, DrawnShape, Lettering)),
        ("regions", (RegionChoice,)),
    ):
        for row in rows:
            found = leaves(row, f"{name}.")
            unknown = [p for p in found if p not in labels.LABELS and not {"id", "kind", "mark"} & set(p.split("."))]
            assert unknown == []
    assert set(Printing.model_fields) == {"printer", "manner", "copies", "face_down"}


def step(revision: int, seconds: float, what: str = "Beet", name: str | None = None, **change: object) -> Step:
    values = {"path": "regions.height", "what": what, "before": revision - 1.0, "after": float(revision)} | change
    return Step(revision, revision - 1, NOW + seconds, name, (Told(**values),))


def test_steps_of_one_kind_soon_after_each_other_are_one_line_from_first_to_last():
    [line] = lines([step(4, 20), step(3, 10), step(2, 0)])
    assert [s.revision for s in line.steps] == [4, 3, 2]
    assert (line.told[0].before, line.told[0].after) == (1.0, 4.0)


def test_another_kind_a_pause_a_name_or_a_way_back_begins_a_line():
    late = SOON + 1
    assert len(lines([step(3, 10, what="Leaf"), step(2, 0)])) == 2
    assert len(lines([step(3, late), step(2, 0)])) == 2
    assert len(lines([step(3, 10, name="Final"), step(2, 0)])) == 2
    assert len(lines([step(3, 10), step(2, 0, name="First")])) == 2
    astray = Step(5, 2, NOW + 5, None, step(5, 5).told)
    assert len(lines([astray, step(3, 3), step(2, 0)])) == 2


def test_a_week_keeps_every_step_then_hours_then_days():
    steps = [Kept(i, NOW - 90 * DAY + 1200 * i, False) for i in range(90 * 72)]
    gone = set(that_go(steps, NOW, frozenset({0})))
    stay = [s for s in steps if s.revision not in gone]
    ages = [NOW - s.made for s in stay]
    assert sum(a <= EVERY for a in ages) == sum(NOW - s.made <= EVERY for s in steps)
    assert sum(EVERY < a <= HOURLY for a in ages) == pytest.approx(53 * 24, abs=2)
    assert sum(a > HOURLY for a in ages) == pytest.approx(30, abs=2)
    assert 0 not in gone


@given(
    st.lists(st.tuples(st.integers(0, 200_000), st.booleans()), max_size=60),
    st.frozensets(st.integers(0, 59), max_size=5),
)
def test_thinning_keeps_what_is_named_and_is_done_when_it_is_done(minutes, always):
    steps = [Kept(i, NOW - 60 * m, named) for i, (m, named) in enumerate(sorted(minutes, reverse=True))]
    gone = that_go(steps, NOW, always)
    assert not {s.revision for s in steps if s.named} & set(gone)
    assert not always & set(gone)
    rest = [s for s in steps if s.revision not in gone]
    assert that_go(rest, NOW, always) == []
    assert bool(rest) == bool(steps)
