"""Operations on a piece: what is put, dropped and left out, and what stays when the picture is traced otherwise."""

from __future__ import annotations

import hashlib
import math
import re

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.outline.path_data import read_path
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import DrawnLine, DrawnPath, DrawnShape, Lettering, LineStretch, Symmetry
from drelo.core.piece.edits import (
    Edit,
    MarkDrawn,
    OrderDrawn,
    Picked,
    PutDrawn,
    PutPicture,
    SetBase,
    SetRegions,
    SetTrace,
)
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.flat import FlatRegion
from drelo.core.piece.memo import Memo
from drelo.core.piece.operations import (
    Align,
    ChangeNodes,
    Combine,
    Ease,
    FitInside,
    InsertNode,
    Lift,
    Loop,
    MoveHandle,
    MoveNodes,
    Offset,
    Operation,
    Pour,
    Remove,
    Replace,
    Retie,
    Simplify,
    Tie,
    Transform,
    Widen,
)
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.piece.shaping import shaped
from drelo.core.piece.shaping.areas import find_leak
from drelo.formats.fonts import shipped_font
from tests.refusals import refused


def picture() -> bytes:
    image = np.full((300, 400), 255, np.uint8)
    cv2.circle(image, (140, 150), 90, 0, -1, cv2.LINE_AA)
    cv2.circle(image, (140, 150), 40, 255, -1, cv2.LINE_AA)
    cv2.rectangle(image, (280, 60), (370, 240), 0, -1)
    return cv2.imencode(".png", image)[1].tobytes()


PICTURE = picture()
NAME = hashlib.sha256(PICTURE).hexdigest()


def asset(key: str) -> bytes:
    return shipped_font(key.removeprefix("font:")) if key.startswith("font:") else PICTURE


EV = Evaluation(asset, Memo(400))
RECT = DrawnShape(id="rect", form="rectangle", at=(0, 0), width=40, height=20)
DISC = DrawnShape(id="disc", form="circle", at=(20, 0), width=20, height=20)


def traced() -> Document:
    source = PlacedPicture(id="s", asset=NAME, name="x.png", width=400, height=300)
    return apply(Document(), PutPicture(source=source))


def step(document: Document, *steps: Operation | Edit) -> Document:
    for one in steps:
        edit = shaped(EV.workshop(document), one) if type(one).__module__.endswith("operations") else one  # type: ignore[arg-type]
        document = apply(document, edit)  # type: ignore[arg-type]
    return document


def drawn(*things: object) -> Document:
    return step(Document(), PutDrawn(things=things))  # type: ignore[arg-type]


def bar(document: Document) -> FlatRegion:
    """The upright rectangle of the picture."""
    return max(EV.flat(document).regions, key=lambda r: r.box[0])


def picked(region: FlatRegion) -> Picked:
    return Picked(id=region.id, mark=region.mark)


def areas(document: Document) -> list[float]:
    return sorted(round(r.area, 1) for r in EV.flat(document).regions if not r.left_out)


def test_a_piece_without_a_picture_is_built_from_what_is_drawn() -> None:
    document = drawn(RECT)
    flat = EV.flat(document)
    assert (flat.width, flat.height, flat.left, flat.top) == pytest.approx((40, 20, -20, -10))
    whole = EV.made(document, 0.008).whole
    assert whole.size == pytest.approx((46, 26, 3.2), abs=1e-3)


@pytest.mark.parametrize(
    ("how", "wanted"), [("unite", [957.1]), ("carve", [642.9]), ("overlap", [157.1]), ("divide", [157.1, 157.1, 642.9])]
)
def test_combining_drawn_things(how: str, wanted: list[float]) -> None:
    document = step(drawn(RECT, DISC), Combine(seed="n", how=how, picked=("rect", "disc")))  # type: ignore[arg-type]
    assert sorted(round(sum(o.area for o in [r.shape.outline]), 1) for r in EV.kept(document)) == pytest.approx(
        wanted, abs=0.3
    )
    assert {t.id for t in document.drawn} & {"rect", "disc"} == set()


def test_combining_takes_traced_regions_with_their_heights() -> None:
    document = traced()
    first = EV.flat(document).regions[0]
    document = step(
        document,
        SetRegions(picked=(picked(first),), height=2.5),
        PutDrawn(things=(DrawnShape(id="bar", form="rectangle", at=(200, 150), width=200, height=30),)),
        Combine(seed="n", how="unite", picked=(first.id, "bar")),
    )
    regions = [r for r in EV.flat(document).regions if not r.left_out]
    assert [r.height for r in regions if r.drawn == "n"] == [2.5]
    assert sum(r.left_out for r in EV.flat(document).regions) == 1
    with refused("two or more outlines"):
        step(document, Combine(seed="m", how="carve", picked=("n",)))


def test_a_border_lies_beneath_and_half_as_high() -> None:
    document = traced()
    ids = tuple(r.id for r in EV.flat(document).regions)
    document = step(document, Offset(seed="b", picked=ids, by=2))
    regions = EV.flat(document).regions
    assert regions[0].drawn == "b"
    assert regions[0].height == 0.6
    assert EV.flat(document).width == pytest.approx(EV.flat(traced()).width + 4, abs=0.02)
    # What was traced lies where it lay.
    traced_paths = {r.id: r.path for r in regions if r.drawn is None}
    assert traced_paths == {r.id: r.path for r in EV.flat(traced()).regions}


def test_ties_pours_widths_and_loops() -> None:
    apart = drawn(RECT, DISC.model_copy(update={"at": (60.0, 0.0)}))
    tied = step(apart, Tie(seed="t", picked=("rect", "disc"), width=3))
    # The tie is one outline with what it joins.
    assert [t.id for t in tied.drawn] == ["t"]
    assert len(EV.kept(tied)) == 1
    line = DrawnLine(id="l", start=(0, 0), stretches=(LineStretch(kind="straight", to=(30, 0)),))
    wide = step(drawn(line), Widen(seed="w", picked=("l",), width=2, ends="flat"))
    assert areas(wide) == [60.0]
    sides = (((0, 0), (30, 0)), ((30, 0), (30, 20)), ((30, 20), (0, 20)), ((0, 20), (0, 0.4)))
    fence = drawn(
        *(
            DrawnLine(id=f"s{i}", start=a, stretches=(LineStretch(kind="straight", to=b),))
            for i, (a, b) in enumerate(sides)
        )
    )
    with refused(r"gap of 0\.40 mm"):
        step(fence, Pour(seed="p", at=(10, 10)))
    assert areas(step(fence, Pour(seed="p", at=(10, 10), gap=0.5))) == [600.0]
    looped = step(drawn(RECT), Loop(seed="k", id="rect", at=(-22, 0), inner=4, wall=2))
    ring, hole = EV.kept(looped)
    assert ring.shape.outline.outer.bounds[0] == pytest.approx(-26)
    assert hole.shape.outline.area == pytest.approx(math.pi * 4, rel=1e-3)
    # The hole goes through the base too, whatever its margin.
    solid = EV.made(looped, 0.008).whole
    filled = EV.made(step(looped, Remove(picked=(hole.id,))), 0.008).whole
    assert filled.volume - solid.volume == pytest.approx(math.pi * 4 * 3.2, rel=5e-3)
    with refused("does not touch"):
        step(drawn(RECT), Loop(seed="k", id="rect", at=(-60, 0)))


def test_a_loop_leaves_no_nick_between_itself_and_the_border() -> None:
    notched = DrawnPath(id="n", path="M-20 -10L-3 -10L0 -4L3 -10L20 -10L20 10L-20 10ZM-5 2L5 2L5 6L-5 6Z")
    looped = step(drawn(notched), Loop(seed="k", id="n", at=(0, -10), inner=4, wall=2))
    body, hole = EV.kept(looped)
    # The window stays; what the loop leaves of the notch beneath it does not.
    assert [shapely.Polygon(h.flattened(0.01)).area for h in body.shape.outline.holes] == [pytest.approx(40)]
    assert hole.shape.drawn == "kh"


def tied_path(document: Document) -> DrawnPath:
    (found,) = (t for t in document.drawn if isinstance(t, DrawnPath) and t.tied)
    return found


def across(document: Document, x: float) -> float:
    """How high what is drawn is at a place across, mm."""
    area = shapely.union_all([r.shape.outline.flattened(1e-3) for r in EV.kept(document)])
    return float(shapely.intersection(area, shapely.LineString([(x, -99), (x, 99)])).length)


APART = (RECT, DISC.model_copy(update={"at": (60.0, 0.0)}))
# Between the rectangle's right side and the disc.
BETWEEN = 35.0


def test_a_tie_in_an_outline_is_changed_by_its_numbers() -> None:
    tied = step(drawn(*APART), Tie(seed="t", picked=("rect", "disc"), width=3))
    tie = tied_path(tied)
    assert across(tied, BETWEEN) == pytest.approx(3, abs=0.02)
    wider = step(tied, Retie(picked=(tie.id,), width=5))
    assert across(wider, BETWEEN) == pytest.approx(5, abs=0.02)
    assert tied_path(wider).tied.ties[0].start == tie.tied.ties[0].start
    (shape,) = (r.shape.outline for r in EV.kept(wider))
    assert not shape.holes
    # Narrower again, nothing of the wider one stays.
    back = step(wider, Retie(picked=(tie.id,), width=3))
    before, after = (EV.kept(d)[0].shape.outline.flattened(1e-3) for d in (tied, back))
    assert after.symmetric_difference(before).area < 1e-3
    with refused("no longer there"):
        step(tied, Retie(picked=(tie.id,), which=1, width=5))


def test_a_second_tie_joins_a_third_part_and_both_stay_ties() -> None:
    third = DISC.model_copy(update={"id": "third", "at": (60.0, 50.0)})
    tied = step(drawn(*APART), Tie(seed="t", picked=("rect", "disc"), width=3))
    more = step(drawn(*tied.drawn, third), Tie(seed="u", picked=("t", "third"), width=2))
    assert len(EV.kept(more)) == 1
    assert [tie.width for tie in tied_path(more).tied.ties] == [3, 2]
    narrow = step(more, Retie(picked=("u",), which=0, width=1))
    assert across(narrow, BETWEEN) == pytest.approx(1, abs=0.02)


def test_an_outline_with_ties_keeps_them_when_it_is_moved_and_not_when_it_is_bent_or_dragged() -> None:
    tied = step(drawn(*APART), Tie(seed="t", picked=("rect", "disc"), width=3))
    larger = step(tied, Transform(seed="g", picked=("t",), matrix=(0, 2, -2, 0, 1, 1)))
    assert tied_path(larger).tied.ties[0].width == pytest.approx(6)
    again = step(larger, Retie(picked=("t",), width=6))
    before, after = (EV.kept(d)[0].shape.outline.flattened(1e-3) for d in (larger, again))
    assert after.symmetric_difference(before).area < 0.5
    bent = step(tied, Transform(seed="g", picked=("t",), matrix=(1, 0, 0, 2, 0, 0)))
    dragged = step(tied, MoveNodes(id="t", contour=0, nodes=(0,), by=(0, 1)))
    for document in (bent, dragged):
        with refused("no longer count as ties"):
            step(document, Retie(picked=("t",), width=2))


def test_a_tie_on_words_leaves_them_words_and_no_slit() -> None:
    words = Lettering(id="w", text="ii", font="font:sans", at=(0, 0), height=20)
    document = step(drawn(words), Tie(seed="t", picked=("w",), width=2))
    assert isinstance(document.drawn[0], Lettering)
    ties = [t for t in document.drawn if isinstance(t, DrawnPath) and t.tie]
    assert len(ties) == 3
    whole = shapely.union_all([r.shape.outline.flattened(1e-3) for r in EV.kept(document)])
    assert shapely.get_num_geometries(whole) == 1
    assert not whole.interiors
    wider = step(document, Retie(picked=(ties[0].id,), width=3))
    assert next(t for t in wider.drawn if t.id == ties[0].id).tie.width == 3


def test_a_line_that_stops_short_within_an_area_is_told_before_it_is_poured() -> None:
    short = DrawnLine(id="l", start=(0, -10), stretches=(LineStretch(kind="straight", to=(0, 9.6)),))
    document = drawn(RECT, short)
    shop = EV.workshop(document)
    gap, held = find_leak(shop, (-10, 0)) or (None, False)
    assert held
    assert gap is not None
    assert gap.width == pytest.approx(0.4, abs=1e-3)
    assert find_leak(shop, (-10, 0), gap=0.5) is None
    # Told of it, the maker can have either.
    for tolerance, filled in ((0.0, 40 * 20), (0.5, 20 * 20)):
        poured = EV.kept(step(document, Pour(seed="p", at=(-10, 0), gap=tolerance)))
        assert next(r.shape.outline.area for r in poured if r.shape.drawn == "p") == pytest.approx(filled, rel=1e-3)
    # A line that only stands in an area parts nothing.
    stub = short.model_copy(update={"stretches": (LineStretch(kind="straight", to=(0, -5)),)})
    assert find_leak(EV.workshop(drawn(RECT, stub)), (-10, 0)) is None


def test_things_are_fitted_inside_a_shape_with_a_margin() -> None:
    coaster = DISC.model_copy(update={"id": "coaster", "at": (100.0, 40.0), "width": 90.0, "height": 90.0})
    document = drawn(coaster, RECT)
    fitted = step(document, FitInside(seed="f", picked=("rect",), into="coaster", margin=5))
    (inner,) = [r.shape.outline for r in EV.kept(fitted) if r.shape.drawn == "rect"]
    area = inner.flattened(1e-3)
    assert shapely.Point(100, 40).buffer(40.02, quad_segs=64).covers(area)
    x0, y0, x1, y1 = area.bounds
    assert ((x0 + x1) / 2, (y0 + y1) / 2) == pytest.approx((100, 40), abs=0.3)
    assert math.hypot(x1 - x0, y1 - y0) == pytest.approx(80, rel=0.02)
    with refused("no room left inside"):
        step(document, FitInside(seed="f", picked=("rect",), into="coaster", margin=45))
    with refused("what is to go inside"):
        step(document, FitInside(seed="f", picked=("coaster",), into="coaster"))


def test_moving_turning_mirroring_and_copies() -> None:
    document = step(drawn(RECT), Transform(seed="t", picked=("rect",), matrix=(0, 2, -2, 0, 5, 6)))
    (shape,) = document.drawn
    assert isinstance(shape, DrawnShape)
    assert (*shape.at, shape.width, shape.turn) == pytest.approx((5, 6, 80, 90))
    mirrored = step(
        drawn(Lettering(id="w", text="Ab", at=(0, 0), height=10)),
        Transform(seed="t", picked=("w",), matrix=(-1, 0, 0, 1, 0, 0)),
    )
    assert isinstance(mirrored.drawn[0], DrawnPath)
    copies = step(drawn(DISC), Transform(seed="c", picked=("disc",), matrix=(1, 0, 0, 1, 25, 0), copies=3))
    assert len(EV.kept(copies)) == 4
    assert EV.flat(copies).width == pytest.approx(95)
    with refused("flatten"):
        step(drawn(RECT), Transform(seed="t", picked=("rect",), matrix=(0, 0, 0, 0, 0, 0)))


def test_alignment() -> None:
    apart = drawn(RECT, DISC.model_copy(update={"at": (70.0, 33.0)}))
    aligned = step(apart, Align(seed="a", picked=("rect", "disc"), how="middle"))
    assert EV.flat(aligned).height == pytest.approx(20)
    left = step(apart, Align(seed="a", picked=("rect", "disc"), how="left"))
    assert EV.flat(left).width == pytest.approx(40)


def test_symmetry_repeats_what_is_drawn_and_joins_halves() -> None:
    mirror = Symmetry(kind="mirror", at=(0, 0), angle=90)
    half = DrawnLine(
        id="h",
        start=(0, 0),
        stretches=tuple(LineStretch(kind="straight", to=p) for p in ((10, 0), (10, 30), (0, 20))),
        follow=mirror,
    )
    (region,) = EV.flat(drawn(half)).regions
    assert region.area == pytest.approx(2 * 250)
    petals = drawn(DISC.model_copy(update={"follow": Symmetry(kind="turn", at=(0, 0), count=5), "width": 5.0}))
    assert len(EV.flat(petals).regions) == 5


def test_order_lock_hide_and_groups() -> None:
    document = step(drawn(RECT, DISC), OrderDrawn(ids=("disc",), to="bottom"))
    assert [t.id for t in document.drawn] == ["disc", "rect"]
    hidden = step(document, MarkDrawn(ids=("disc",), hidden=True))
    assert len(EV.flat(hidden).regions) == 1
    grouped = step(document, MarkDrawn(ids=("disc", "rect"), group="g"), MarkDrawn(ids=("disc",), group=""))
    assert [t.group for t in grouped.drawn] == [None, "g"]
    with pytest.raises(Refusal):
        step(document, MarkDrawn(ids=("gone",), hidden=True))


def test_lettering_replaces_what_was_traced_beneath() -> None:
    document = traced()
    words = Lettering(id="w", text="M", font="font:sans", at=(325, 150), height=190)
    document = step(document, PutDrawn(things=(words,)), Replace(id="w"))
    assert sum(r.left_out for r in EV.flat(document).regions) == 1
    far = step(traced(), PutDrawn(things=(words.model_copy(update={"at": (2000.0, 0.0)}),)))
    with refused("beneath"):
        step(far, Replace(id="w"))


def test_nodes_of_drawn_and_traced_outlines() -> None:
    document = step(drawn(RECT), InsertNode(id="rect", at=(5, -10)))
    assert isinstance(document.drawn[0], DrawnPath)
    assert EV.flat(document).things[0].nodes == 5
    document = step(
        document,
        ChangeNodes(id="rect", nodes=(0,), how="smooth"),
        MoveHandle(id="rect", segment=0, handle=1, to=(9, 9)),
    )
    document = traced()
    square = min(EV.flat(document).regions, key=lambda r: r.nodes)
    mended = step(document, MoveNodes(id=square.id, nodes=(0,), by=(20, 0)))
    assert len(mended.pictures[0].mends) == 1
    assert [r.id for r in EV.flat(mended).regions] == [r.id for r in EV.flat(document).regions]
    twice = step(
        mended,
        MoveNodes(id=square.id, nodes=(1,), by=(0, 10)),
        Simplify(picked=(EV.flat(document).regions[0].id,), tolerance=0.5),
    )
    assert len(twice.pictures[0].mends) == 2


@pytest.mark.parametrize("node", range(4))
def test_a_node_that_was_moved_keeps_its_number(node: int) -> None:
    document = traced()
    square = bar(document)
    moved = bar(step(document, MoveNodes(id=square.id, nodes=(node,), by=(25, 12))))
    places = [read_path(r.path)[0].curves[:, 0] for r in (square, moved)]
    off = np.zeros((4, 2))
    off[node] = (25, 12)
    assert places[1] - places[0] == pytest.approx(off, abs=1e-2)


@given(st.floats(0.3, 0.7), st.integers(0, 3))
@settings(max_examples=20, deadline=None)
def test_mends_stay_when_the_level_moves(level: float, node: int) -> None:
    document = traced()
    square = bar(document)
    mended = step(document, MoveNodes(id=square.id, nodes=(node,), by=(25, 12)))
    before = bar(mended)
    again = apply(mended, SetTrace(level=level))
    flat = EV.flat(again)
    assert not any("no longer fit" in r.text for r in flat.remarks)
    after = bar(again)
    assert after.area == pytest.approx(before.area, rel=0.02)


def test_mends_that_fit_nowhere_are_told_of_and_wait() -> None:
    document = traced()
    square = bar(document)
    mended = step(document, MoveNodes(id=square.id, nodes=(0,), by=(25, 12)))
    lost = apply(mended, SetTrace(invert=True))
    assert any("no longer fit" in r.text for r in EV.flat(lost).remarks)
    back = apply(lost, SetTrace(invert=False))
    assert areas(back) == areas(mended)


def test_easing_lifting_and_throwing_away() -> None:
    document = traced()
    hoop = max(EV.flat(document).regions, key=lambda r: r.nodes)
    eased = step(
        document, Ease(id=hoop.id, points=((225.0, 130.0), (230.0, 150.0), (225.0, 170.0)), radius=15, tolerance=2)
    )
    assert len(eased.pictures[0].mends) == 1
    with refused("brush"):
        step(document, Ease(id=hoop.id, points=((5.0, 5.0),), radius=0.5))
    lifted = step(document, Lift(seed="x", picked=(hoop.id,)))
    assert areas(lifted) == areas(document)
    gone = step(lifted, Remove(picked=(lifted.drawn[0].id,)))
    assert len(areas(gone)) == 1
    with refused("no longer there"):
        step(gone, Remove(picked=("nobody",)))


def test_a_picture_under_a_drawing_keeps_the_drawings_size() -> None:
    document = drawn(RECT)
    with_picture = apply(
        document, PutPicture(source=PlacedPicture(id="s", asset=NAME, name="x", width=400, height=300))
    )
    thing = next(t for t in EV.flat(with_picture).things if t.id == "rect")
    assert thing.box[2:] == pytest.approx((40, 20))


def test_crossings_of_an_outline_with_itself_are_found_said_and_mended() -> None:
    bow = DrawnPath(id="bow", name="Bow", path="M0 0L20 20L20 0L0 20Z")
    document = apply(
        Document(), PutDrawn(things=(bow, DrawnShape(id="disc", form="circle", at=(60, 0), width=10, height=10)))
    )
    flat = EV.flat(document)
    crossings = {t.id: t.crossings for t in flat.things}
    assert crossings["disc"] == ()
    assert len(crossings["bow"]) == 1
    assert crossings["bow"][0] == pytest.approx((10, 10), abs=1e-3)
    assert any(remark.text.startswith("Bow crosses itself at 1 place.") for remark in flat.remarks)
    mended = step(document, Combine(seed="m", how="unite", picked=("bow",)))
    assert all(t.crossings == () for t in EV.flat(mended).things)
    assert sum(r.area for r in EV.flat(mended).regions) == pytest.approx(sum(r.area for r in flat.regions), rel=1e-6)


def test_a_loop_of_a_curve_is_found_once() -> None:
    loop = DrawnPath(id="loop", path="M0 0C60 40 -30 40 30 0L30 -20L0 -20Z")
    (thing,) = EV.flat(apply(Document(), PutDrawn(things=(loop,)))).things
    assert len(thing.crossings) == 1
    x, y = thing.crossings[0]
    assert x == pytest.approx(15, abs=1e-3)
    assert 0 < y < 30


def test_what_stands_out_over_the_base_is_marked_on_the_sheet() -> None:
    document = drawn(DrawnShape(id="bar", form="rectangle", at=(0, 0), width=80, height=10))
    assert EV.flat(document).overhang_path == ""
    narrow = apply(document, SetBase(shape="block", block=(60, 40)))
    flat = EV.flat(narrow)
    x = [float(v) for v in re.findall(r"[ML](-?[\d.]+)", flat.overhang_path)]
    assert (min(x), max(x)) == pytest.approx((-40, 40), abs=1e-3)
    assert all(abs(v) >= 30 - 1e-3 for v in x)
    assert any("reaches 10.00 mm past the base" in remark.text for remark in flat.remarks)
