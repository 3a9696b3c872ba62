"""Bed plans: what lies stays, what is new finds room round it, and what is wrong is told."""

from __future__ import annotations

import math

import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drelo.core.rehearsal.plan import BedPlan, Lying, Thing, amiss, beds_of, kept, packed, without_gaps
from drelo.core.rehearsal.settings import Printer
from tests.refusals import refused

PRINTER = Printer(width=120, depth=120)
OUTLINES = {0: shapely.box(0, 0, 50, 30), 1: shapely.Point(20, 20).buffer(20)}
PLAN = BedPlan(things=(Thing(piece="a", copies=3), Thing(piece="b", copies=2)))


def test_every_copy_has_a_place_of_its_own():
    plan = packed(PLAN, OUTLINES, PRINTER, "locked")
    assert [(p.thing, p.copy_number) for p in plan.places] == [(0, 0), (0, 1), (0, 2), (1, 0), (1, 1)]
    assert amiss(plan, OUTLINES, PRINTER) == [None] * 5
    assert len(beds_of(plan)) == 1


@settings(max_examples=25)
@given(st.floats(26, 70), st.floats(26, 70), st.floats(0, 6.28), st.integers(0, 1))
def test_what_is_locked_stays_and_the_rest_is_laid_round_it(x, y, turn, bed):
    locked = Lying(thing=1, copy_number=1, bed=bed, x=x, y=y, turn=turn, locked=True)
    plan = packed(PLAN.model_copy(update={"places": (locked,)}), OUTLINES, PRINTER, "locked")
    assert locked in plan.places
    assert len(plan.places) == 5
    # The locked one may itself stand out; nothing lies on it or over the edge.
    assert {
        told for place, told in zip(plan.places, amiss(plan, OUTLINES, PRINTER), strict=True) if place != locked
    } == {None}


def test_only_new_copies_are_laid_where_the_rest_is_kept():
    plan = packed(PLAN, OUTLINES, PRINTER, "locked")
    more = plan.model_copy(update={"things": (Thing(piece="a", copies=4), Thing(piece="b", copies=2))})
    after = packed(more, OUTLINES, PRINTER, "all")
    assert set(plan.places) < set(after.places)
    assert amiss(after, OUTLINES, PRINTER) == [None] * 6


def test_what_lies_wrong_is_told():
    places = (
        Lying(thing=0, copy_number=0, bed=0, x=0, y=0),
        Lying(thing=0, copy_number=1, bed=0, x=49, y=0),
        Lying(thing=0, copy_number=2, bed=1, x=49, y=0),
        Lying(thing=1, copy_number=0, bed=0, x=90, y=90),
        # They touch, and overlap nowhere.
        Lying(thing=1, copy_number=1, bed=1, x=0, y=40),
    )
    plan = PLAN.model_copy(update={"places": places})
    assert amiss(plan, OUTLINES, PRINTER) == ["overlaps", "overlaps", None, "over the edge", None]
    turned = places[0].model_copy(update={"x": 30.0, "turn": math.pi / 2})
    assert amiss(PLAN.model_copy(update={"places": (turned,)}), OUTLINES, PRINTER) == [None]


def test_what_fits_on_no_bed_is_named():
    with refused("Number 2 in the list is 200 × 10 mm") as told:
        packed(PLAN, {0: OUTLINES[0], 1: shapely.box(0, 0, 200, 10)}, PRINTER, "locked")
    assert told.value.field == "things.1"
    many = PLAN.model_copy(update={"things": tuple(Thing(piece=str(n), copies=200) for n in range(6))})
    with refused("at most 1000"):
        packed(many, dict.fromkeys(range(6), OUTLINES[0]), PRINTER, "locked")


def test_places_go_along_when_the_list_changes():
    plan = packed(PLAN, OUTLINES, PRINTER, "locked")
    after = kept((Thing(piece="b", copies=1), Thing(piece="c", copies=1)), plan)
    assert [(p.thing, p.copy_number) for p in after.places] == [(0, 0)]
    assert after.places[0].place == plan.places[3].place
    moved = plan.model_copy(update={"places": tuple(p.model_copy(update={"bed": 3 + p.thing}) for p in plan.places)})
    assert {p.bed for p in without_gaps(moved).places} == {0, 1}
