"""The sheet is in mm: nothing but an edit that says so changes the size or place of what was there."""

from __future__ import annotations

import math
from typing import Any, get_args

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.outline.outline import even_odd
from drelo.core.outline.path_data import read_path
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.flat import Flat
from drelo.core.piece.incoming import BESIDE, FIRST_WIDTH, in_place_of, laid_out
from drelo.core.piece.memo import Memo
from drelo.core.piece.operations import OPERATION, Operation
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.piece.shaping import shaped
from drelo.core.solid.mesh import Mesh
from drelo.formats.fonts import shipped_font
from tests.piece import edited, picked, worked

# So far (mm) may an outline lie from where it lay.
STILL = 1e-9
OPERATIONS = {kind.model_fields["do"].default for kind in get_args(get_args(Operation)[0])}


def png(draw: Any, width: int, height: int) -> bytes:
    image = np.full((height, width, 3), 255, np.uint8)
    draw(image)
    return bytes(cv2.imencode(".png", image)[1])


def rings(image: np.ndarray) -> None:
    cv2.circle(image, (70, 80), 50, (20, 20, 20), -1, cv2.LINE_AA)
    cv2.circle(image, (70, 80), 22, (255, 255, 255), -1, cv2.LINE_AA)
    cv2.rectangle(image, (150, 40), (190, 130), (20, 20, 20), -1)
    # Dirt out to one side, which makes the art a third wider.
    cv2.circle(image, (250, 100), 4, (20, 20, 20), -1, cv2.LINE_AA)


def bars(image: np.ndarray) -> None:
    cv2.rectangle(image, (20, 20), (60, 100), (40, 40, 200), -1)
    cv2.ellipse(image, (110, 60), (30, 40), 0, 0, 360, (60, 160, 40), -1, cv2.LINE_AA)


FILES = {"a" * 64: png(rings, 280, 170), "b" * 64: png(bars, 160, 120), "c" * 64: png(rings, 280, 170)}
MEMO = Memo(400)


def asset(name: str) -> bytes:
    return shipped_font(name[5:]) if name.startswith("font:") else FILES[name]


EV = Evaluation(asset, MEMO)


def source(name: str, letter: str, width: int, height: int) -> PlacedPicture:
    return PlacedPicture(id=name, asset=letter * 64, name=f"{name}.png", width=width, height=height)


def full_sheet() -> Document:
    """Two pictures, one of them turned, with areas, pen lines, a mend, drawn things and one that is mirrored."""
    document = Document()
    for picture in (source("one", "a", 280, 170), source("two", "b", 160, 120)):
        placed = laid_out(EV, document, picture)
        document = apply(document, EDIT.validate_python({"do": "put-picture", "source": placed}))
    two = document.pictures[1].place
    turned = {"mm_per_px": two.mm_per_px * 0.7, "at": (two.at[0] + 20, two.at[1] - 3), "turn": 24}
    document = edited(document, do="place-picture", picture="two", place=turned)
    things = [
        {"kind": "shape", "id": "disc", "form": "circle", "at": [-20, 4], "width": 17, "height": 17},
        {"kind": "lettering", "id": "word", "text": "Beet", "font": "font:sans", "at": [-20, 30], "height": 9},
        {"kind": "path", "id": "free", "path": "M-40 40C-30 35 -22 51 -12 44L-12 60L-40 60Z", "name": "Free"},
        {
            "kind": "line",
            "id": "open",
            "start": [-50, 0],
            "stretches": [{"kind": "straight", "to": [-50, 20]}, {"kind": "straight", "to": [-38, 26]}],
        },
        {
            "kind": "path",
            "id": "half",
            "path": "M0 70L20 70L20 84L0 88Z",
            "follow": {"kind": "mirror", "at": [0, 70], "angle": 90},
        },
    ]
    document = edited(document, do="put-drawn", things=things)
    bar = next(r for r in EV.flat(document).regions if r.picture == "one" and r.nodes == 4)
    return worked(EV, document, do="move-nodes", id=bar.id, nodes=[0], by=[1.25, -0.75])


SHEET = full_sheet()
ONE = SHEET.pictures[0].place


def lying(document: Document) -> dict[tuple[str, ...], list[np.ndarray]]:
    """Every outline and open line by where it is from, mm on the sheet."""
    found: dict[tuple[str, ...], list[np.ndarray]] = {}
    for region in EV.regions(document):
        shape = region.shape
        owner = ("drawn", shape.drawn) if shape.drawn else ("pen", shape.pen) if shape.pen else ("in", shape.picture)
        found.setdefault(tuple(map(str, owner)), []).extend(c.curves for c in shape.outline.contours)
    for line in EV.art(document).lines:
        found.setdefault(("line", line.id), []).append(line.contour.curves)
    return found


def moves(before: dict[tuple[str, ...], list[np.ndarray]], after: dict[tuple[str, ...], list[np.ndarray]]) -> set[str]:
    """Who has outlines that were there before and lie elsewhere now."""
    moved = set()
    for owner, curves in before.items():
        if owner not in after:
            continue
        for curve in curves:
            near = [np.abs(curve - other).max() for other in after[owner] if other.shape == curve.shape]
            if not near or min(near) > STILL:
                moved.add(owner[1])
    return moved


def pixels(*points: tuple[float, float]) -> list[tuple[float, float]]:
    return [ONE.on_sheet(p) for p in points]


def on_sheet(x: float, y: float) -> tuple[float, float]:
    return round(x, 2), round(y, 2)


number = st.floats(-60, 90)
place = st.builds(on_sheet, number, number)
region_ids = [r.id for r in EV.flat(SHEET).regions]
marks = {r.id: p for r, p in zip(EV.flat(SHEET).regions, picked(*EV.flat(SHEET).regions), strict=True)}
pictured = st.sampled_from(["one", "two"])

# Each with who may change: names of pictures and of drawn things; "*" for everything.
Step = tuple[dict[str, Any], set[str]]
one_region = st.sampled_from(region_ids)
TRIANGLE = pixels((10, 15), (130, 15), (130, 145))
PEN_LINE = {
    "id": "p1",
    "name": "Line",
    "start": pixels((5, 5))[0],
    "stretches": [{"kind": "straight", "to": p} for p in pixels((270, 8), (200, 160))],
    "closed": True,
}
DISC = {"kind": "shape", "id": "new", "form": "circle", "width": 30, "height": 30}


def said(do: str, *may: str, **values: Any) -> st.SearchStrategy[Step]:
    """A change with values that are drawn, or stand. may: who it may change; "picture" stands for the one it names."""
    drawn = {k: v if isinstance(v, st.SearchStrategy) else st.just(v) for k, v in values.items()}
    return st.fixed_dictionaries(drawn).map(
        lambda told: ({"do": do, **told}, {told["picture"] if m == "picture" else m for m in may})
    )


changes: st.SearchStrategy[Step] = st.one_of(
    said("set-trace", "picture", picture=pictured, smooth=st.floats(0, 1)),
    said("set-trace", "picture", picture=pictured, speck=st.floats(0, 90)),
    said("set-trace", "picture", picture=pictured, mode="colours"),
    said("set-tracing", "picture", picture=pictured, on=False),
    said("add-area", "picture", picture="one", id="a1", corners=TRIANGLE),
    said("set-pen", picture="one", line=PEN_LINE),
    said("set-care", "picture", picture="one", care=[{"do": "even"}]),
    said("mark-picture", "picture", picture=pictured, hidden=True),
    said("drop-picture", "picture", picture=pictured),
    said("order-picture", picture="one", to=st.sampled_from(["top", "up"])),
    said("keep-outlines", seed="k", picture=pictured),
    said("place-picture", "picture", picture=pictured, place=place.map(lambda at: {"mm_per_px": 0.3, "at": at})),
    said("set-scale", "picture", picture="two", points=[[0, 0], [9, 9]], mm=st.floats(1, 50)),
    said("set-size", "*", side="width", mm=st.floats(10, 300)),
    said("set-regions", picked=one_region.map(lambda i: [marks[i]]), left_out=True),
    said("set-regions", picked=one_region.map(lambda i: [marks[i]]), height=st.floats(0, 4)),
    said("remove", picked=one_region.map(lambda i: [i])),
    said("lift", seed="l", picked=one_region.map(lambda i: [i])),
    said("offset", seed="o", picked=one_region.map(lambda i: [i]), by=st.floats(0.5, 4)),
    said("combine", seed="c", how="unite", picked=st.lists(one_region, min_size=2, max_size=2)),
    said("put-drawn", things=place.map(lambda at: [{**DISC, "at": at}])),
    said("transform", "disc", seed="t", picked=["disc"], matrix=place.map(lambda by: [1, 0, 0, 1, *by])),
    said("loop", seed="h", id="disc", kind="hole", inner=3),
    said("trim", "free", seed="t", id="free", at=[-26, 60]),
    said("widen", seed="w", picked=["open"], width=2),
    said("make-plain", picked=["half"]),
    said("set-form", form=st.sampled_from(["stamp", "cutter"])),
    said("set-base", shape="circle", diameter=st.floats(5, 200)),
    said("set-base", shape="block", at=place),
    said("set-units", units="inch"),
    said("mark-drawn", ids=["disc"], hidden=True),
    said("order-drawn", ids=["free"], to="bottom"),
)


def changed(document: Document, asked: dict[str, Any]) -> Document:
    if asked["do"] not in OPERATIONS:
        return apply(document, EDIT.validate_python(asked))
    return apply(document, shaped(EV.workshop(document), OPERATION.validate_python(asked)))


@settings(max_examples=120, deadline=None)
@given(st.lists(changes, min_size=1, max_size=4))
def test_what_was_there_stays_where_it_lies_whatever_is_done_elsewhere(
    steps: list[tuple[dict[str, Any], set[str]]],
) -> None:
    document, before = SHEET, lying(SHEET)
    for asked, may in steps:
        try:
            after_document = changed(document, asked)
            after = lying(after_document)
        except Refusal:
            # It names what an earlier step took away, or leaves nothing.
            continue
        if "*" not in may:
            assert moves(before, after) <= may, asked
        document, before = after_document, after


# What the maker sees happen


def begun(letter: str = "a") -> Document:
    picture = laid_out(EV, Document(), source("one", letter, 280, 170))
    return apply(Document(), EDIT.validate_python({"do": "put-picture", "source": picture}))


def test_the_first_art_is_as_wide_as_is_usual_and_others_lie_beside_it() -> None:
    document = begun()
    flat = EV.flat(document)
    assert (flat.left, flat.top, flat.width) == pytest.approx((0, 0, FIRST_WIDTH), abs=1e-9)
    second = laid_out(EV, document, source("two", "b", 160, 120))
    both = edited(document, do="put-picture", source=second)
    of_second = [r.box for r in EV.flat(both).regions if r.picture == "two"]
    assert min(b[0] for b in of_second) == pytest.approx(FIRST_WIDTH + BESIDE)
    assert max(b[0] + b[2] for b in of_second) - min(b[0] for b in of_second) == pytest.approx(FIRST_WIDTH)


def test_strays_that_are_dropped_leave_the_rest_as_large_as_it_was() -> None:
    document = worked(EV, begun(), do="set-size", side="width", mm=11 * 25.4)
    flat = EV.flat(document)
    assert flat.size is not None
    assert flat.size.holds
    stray = max(flat.regions, key=lambda r: r.box[0])
    dropped = worked(EV, document, do="remove", picked=[stray.id])
    after = EV.flat(dropped)
    kept = {r.id: r.path for r in flat.regions if r.id != stray.id}
    assert {r.id: r.path for r in after.regions if not r.left_out} == kept
    # The typed size no longer holds, which is said and can be mended.
    assert after.size is not None
    assert not after.size.holds
    assert after.size.now < 11 * 25.4 - 10
    assert any("were typed" in remark.text for remark in after.remarks)
    again = EV.flat(worked(EV, dropped, do="set-size", side="width", mm=after.size.mm))
    assert again.width == pytest.approx(11 * 25.4, abs=1e-9)


def test_a_picture_is_replaced_in_its_place_and_regions_keep_what_was_decided() -> None:
    document = begun()
    ring = max(EV.flat(document).regions, key=lambda r: r.area)
    document = edited(document, do="set-regions", picked=picked(ring), height=2.5, name="Ring")
    document = edited(document, do="place-picture", picture="one", place={"mm_per_px": 0.4, "at": [7, 9], "turn": 30})
    other = in_place_of(EV, document, source("fresh", "c", 280, 170), "one")
    after = EV.flat(edited(document, do="put-picture", source=other))
    assert [u.name for u in after.underlays] == ["fresh.png"]
    assert after.underlays[0].box == pytest.approx(EV.flat(document).underlays[0].box)
    assert [r.height for r in after.regions if r.name == "Ring"] == [2.5]


def test_a_picture_dropped_while_its_outlines_stay_leaves_heights_and_names() -> None:
    document = begun()
    ring = max(EV.flat(document).regions, key=lambda r: r.area)
    document = edited(document, do="set-regions", picked=picked(ring), height=2.5, name="Ring")
    before = sorted(r.area for r in EV.flat(document).regions)
    kept = worked(EV, document, do="keep-outlines", seed="k", picture="one")
    assert kept.pictures == ()
    after = EV.flat(kept).regions
    assert sorted(r.area for r in after) == pytest.approx(before)
    assert [r.name for r in after if r.height == 2.5] == ["Ring"]


def test_each_picture_is_traced_in_its_own_way_and_those_above_cover_those_below() -> None:
    document = apply(begun(), EDIT.validate_python({"do": "put-picture", "source": source("two", "b", 160, 120)}))
    document = edited(document, do="set-trace", picture="two", mode="colours")
    flat = EV.flat(document)
    assert {t.picture: t.level is None for t in flat.traces} == {"one": False, "two": True}
    assert [r.picture for r in flat.regions][-1] == "two"
    under = EV.flat(edited(document, do="order-picture", picture="two", to="bottom"))
    assert [r.picture for r in under.regions][-1] == "one"
    hidden = EV.flat(edited(document, do="mark-picture", picture="two", hidden=True))
    assert {r.picture for r in hidden.regions} == {"one"}


@pytest.mark.parametrize("turn", [0, 90, 33.5])
def test_a_picture_moved_and_turned_takes_everything_on_it_along(turn: float) -> None:
    document = edited(
        SHEET, do="add-area", picture="one", id="a1", corners=pixels((10, 15), (135, 15), (135, 145), (10, 145))
    )
    before = {r.id: r for r in EV.flat(document).regions}
    place = {"mm_per_px": ONE.mm_per_px * 2, "at": [100, 5], "turn": turn}
    after = {r.id: r for r in EV.flat(edited(document, do="place-picture", picture="one", place=place)).regions}
    assert before.keys() == after.keys()
    for name, region in before.items():
        grown = 4 if region.picture == "one" else 1
        assert after[name].area == pytest.approx(grown * region.area, rel=1e-6)


# Bases of their own


def base_box(document: Document) -> tuple[float, float, float, float]:
    box = EV.flat(document).base_box
    assert box is not None
    return box


def test_a_piece_begins_with_a_plain_block_and_art_comes_onto_it() -> None:
    block = edited(Document(), do="set-base", shape="block", block=[40, 40], thickness=6, corner_radius=0, at=[0, 0])
    assert base_box(block) == pytest.approx((-20, -20, 40, 40))
    plain = EV.made(block, 0.008).whole
    assert plain.size == pytest.approx((40, 40, 6))
    assert plain.volume == pytest.approx(40 * 40 * 6)
    leaf = {"kind": "path", "id": "leaf", "path": "M-8 0C-4 -9 4 -9 8 0C4 9 -4 9 -8 0Z"}
    cut = edited(block, do="put-drawn", things=[leaf])
    cut = worked(EV, cut, do="centre", seed="c", picked=["leaf"], onto="base", by=[10, 0])
    flat = EV.flat(cut)
    assert flat.left + flat.width / 2 == pytest.approx(10)
    assert base_box(cut) == pytest.approx((-20, -20, 40, 40))
    (region,) = flat.regions
    sunk = edited(cut, do="set-regions", picked=picked(region), height=-2)
    assert plain.volume - EV.made(sunk, 0.008).whole.volume == pytest.approx(2 * region.area, rel=2e-3)


def test_what_is_sunk_beside_the_block_adds_nothing_and_is_told() -> None:
    block = edited(Document(), do="set-base", shape="block", block=[40, 40], corner_radius=0, at=[0, 0])
    over = {"kind": "shape", "id": "r", "form": "rectangle", "at": [20, 0], "width": 20, "height": 10}
    sunk = edited(edited(block, do="put-drawn", things=[over]), do="set-defaults", height=-1)
    made = EV.made(sunk, 0.008)
    assert made.whole.size[:2] == pytest.approx((40, 40))
    assert made.whole.volume == pytest.approx(40 * 40 * 2 - 10 * 10)
    assert any("off the base" in remark.text for remark in made.design.remarks)


def test_rings_and_a_fitted_motif_on_a_disc_are_exact() -> None:
    document = edited(Document(), do="set-base", shape="circle", diameter=95, at=[3, -2])
    ring = {"kind": "shape", "id": "ring", "form": "ring", "at": [0, 0], "width": 92, "height": 92, "inner": 90}
    motif = {"kind": "path", "id": "motif", "path": "M0 0C4 -6 9 -6 12 0C9 9 3 12 0 0Z"}
    document = edited(document, do="put-drawn", things=[ring, motif])
    document = worked(EV, document, do="centre", seed="c", picked=["ring"], onto="base")
    document = worked(EV, document, do="fit-inside", seed="f", picked=["motif"], into="ring", margin=5)
    shapes = {r.shape.drawn: r.shape.outline for r in EV.regions(document)}
    x0, y0, x1, y1 = shapes["ring"].outer.bounds
    assert ((x0 + x1) / 2, (y0 + y1) / 2) == pytest.approx((3, -2), abs=1e-9)
    points = shapes["motif"].outer.flattened(0.001)
    away = np.hypot(points[:, 0] - 3, points[:, 1] + 2)
    # As large as it fits into the ring's hole of 90 with a margin of 5: radius 40.
    assert away.max() == pytest.approx(40, abs=0.02)
    assert base_box(document)[2:] == pytest.approx((95, 95), abs=0.02)
    # A disc that is picked too is not shrunk into the ring.
    disc = {"kind": "shape", "id": "disc", "form": "circle", "at": [3, -2], "width": 95, "height": 95, "beneath": True}
    more = edited(document, do="put-drawn", things=[disc])
    fitted = worked(EV, more, do="fit-inside", seed="g", picked=["disc", "motif"], into="ring", margin=5)
    assert next(t for t in fitted.drawn if t.id == "disc").width == 95  # type: ignore[union-attr]


@pytest.mark.parametrize("form", ["stamp", "nameplate"])
def test_a_plate_can_be_exactly_as_typed_with_sharp_corners(form: str) -> None:
    document = edited(Document(), do="set-base", shape="rectangle", sides=[40, 40], corner_radius=0)
    art = {"kind": "shape", "id": "s", "form": "star", "at": [5, 5], "width": 20, "height": 20, "inner": 8, "sides": 5}
    document = edited(document, do="put-drawn", things=[art])
    document = edited(document, do="set-form", form=form, nameplate={"fixing": {"kind": "none"}})
    assert EV.made(document, 0.008).whole.size[:2] == pytest.approx((40, 40), abs=1e-3)


def test_a_negative_margin_makes_a_smaller_base() -> None:
    art = {"kind": "shape", "id": "s", "form": "rectangle", "at": [0, 0], "width": 30, "height": 20}
    document = edited(Document(), do="put-drawn", things=[art])
    for shape, wide in (("outline", 26), ("rectangle", 26), ("circle", math.hypot(30, 20) - 4)):
        smaller = edited(document, do="set-base", shape=shape, margin=-2, corner_radius=0)
        assert base_box(smaller)[2] == pytest.approx(wide, abs=0.03)
    gone = EV.flat(edited(document, do="set-base", margin=-11))
    assert gone.problem is not None
    assert gone.problem.field == "base.margin"


# Holes


@pytest.mark.parametrize("form", ["relief", "stamp", "cutter", "nameplate"])
@pytest.mark.parametrize("base", [{"shape": "outline", "margin": 6}, {"shape": "circle"}, {"shape": "rectangle"}])
def test_a_hole_goes_through_in_every_form_and_no_margin_closes_it(form: str, base: dict[str, Any]) -> None:
    art = {"kind": "shape", "id": "s", "form": "circle", "at": [0, 0], "width": 50, "height": 50}
    document = edited(Document(), do="put-drawn", things=[art])
    document = edited(edited(document, do="set-base", **base), do="set-form", form=form)
    # An eighth of an inch, for a cord.
    holed = worked(EV, document, do="loop", seed="h", id="s", kind="hole", inner=25.4 / 8, wall=3)
    hole = next(t for t in holed.drawn if t.hole)
    assert hole.at[0] == pytest.approx(0, abs=1e-6)  # type: ignore[union-attr]
    assert hole.at[1] == pytest.approx(-25 + 3 + 25.4 / 16, abs=0.01)  # type: ignore[union-attr]
    flat = EV.flat(holed)
    assert flat.problem is None
    if form == "cutter":
        # What is cut has the hole; in the cutter a pin stands there.
        assert not covers(flat.product_path, hole.at)  # type: ignore[union-attr]
        assert covers(EV.flat(document).product_path, hole.at)  # type: ignore[union-attr]
        return
    mesh, whole = EV.made(holed, 0.02).whole, EV.made(document, 0.02).whole
    assert whole.volume > mesh.volume
    assert passes(mesh, flat, hole.at, form == "stamp")  # type: ignore[union-attr]
    assert not passes(whole, EV.flat(document), hole.at, form == "stamp")  # type: ignore[union-attr]


def areas(path: str) -> Any:
    """What path data covers by the even-odd rule."""
    return even_odd([c.flattened(0.01) for c in read_path(path)])


def covers(path: str, at: tuple[float, float]) -> bool:
    return bool(shapely.intersects_xy(areas(path), *at))


def passes(mesh: Mesh, flat: Flat, at: tuple[float, float], mirrored: bool) -> bool:
    """Whether a needle straight through a place of the sheet meets no triangle of the mesh."""
    x0, _, x1, y1 = areas(flat.base_path).bounds
    x, y = (x1 - at[0] if mirrored else at[0] - x0), y1 - at[1]
    a, b, c = np.moveaxis(mesh.vertices[mesh.faces][:, :, :2].astype(float), 1, 0)

    def side(p: np.ndarray, q: np.ndarray) -> np.ndarray:
        return (q[:, 0] - p[:, 0]) * (y - p[:, 1]) - (q[:, 1] - p[:, 1]) * (x - p[:, 0])

    turns = np.stack([side(a, b), side(b, c), side(c, a)])
    return not bool(((turns > 1e-9).all(axis=0) | (turns < -1e-9).all(axis=0)).any())


def test_what_is_drawn_over_a_hole_does_not_close_it() -> None:
    art = {"kind": "shape", "id": "s", "form": "circle", "at": [0, 0], "width": 50, "height": 50}
    document = edited(Document(), do="put-drawn", things=[art])
    holed = worked(EV, document, do="loop", seed="h", id="s", kind="hole", inner=6, wall=3)
    at = next(t for t in holed.drawn if t.hole).at  # type: ignore[union-attr]
    cover = {"kind": "shape", "id": "c", "form": "circle", "at": at, "width": 20, "height": 20}
    covered = edited(holed, do="put-drawn", things=[cover])
    assert passes(EV.made(covered, 0.02).whole, EV.flat(covered), at, False)


# What is repeated


def shield() -> Document:
    """Half a shield whose mirror image closes it."""
    half = {
        "kind": "line",
        "id": "half",
        "start": [0, 0],
        "stretches": [{"kind": "straight", "to": p} for p in ([20, 0], [20, 20], [0, 34])],
        "follow": {"kind": "mirror", "at": [0, 0], "angle": 90},
    }
    return edited(Document(), do="put-drawn", things=[half])


def symmetric(document: Document, thing: str) -> bool:
    """Whether a thing's outlines, each as a whole, are their own mirror image over x = 0."""
    area = [r.shape.outline.flattened(0.01) for r in EV.regions(document) if r.shape.drawn == thing]
    whole = shapely.union_all(area)
    other = shapely.transform(whole, lambda xy: xy * np.array([-1.0, 1.0]))
    return float(shapely.symmetric_difference(whole, shapely.make_valid(other)).area) < 0.05


def test_a_half_closed_by_its_mirror_image_is_closed_everywhere() -> None:
    flat = EV.flat(shield())
    (region,) = flat.regions
    assert region.area == pytest.approx(2 * (20 * 20 + 20 * 14 / 2))
    assert flat.lines == ()
    assert flat.things[0].open == 0
    assert not any("open" in remark.text for remark in flat.remarks)


@pytest.mark.parametrize(
    "operation",
    [
        {"do": "widen", "seed": "n", "picked": ["half"], "width": 2},
        {"do": "widen", "seed": "n", "picked": ["half"], "width": 2, "corners": "mitre"},
        {"do": "offset", "seed": "n", "picked": ["half"], "by": 3},
        {"do": "offset", "seed": "n", "picked": ["half"], "by": -2, "keep": False},
        {"do": "combine", "seed": "n", "how": "unite", "picked": ["half", "other"]},
        {"do": "pour", "seed": "n", "at": [5, 5]},
    ],
)
def test_what_is_made_of_a_mirrored_thing_is_whole_and_stays_mirrored(operation: dict[str, Any]) -> None:
    other = {
        "kind": "path",
        "id": "other",
        "path": "M4 -6L12 -6L12 4L4 4Z",
        "follow": {"kind": "mirror", "at": [0, 0], "angle": 90},
    }
    document = worked(EV, edited(shield(), do="put-drawn", things=[other]), **operation)
    made = next(t for t in document.drawn if t.id == "n")
    assert made.follow is not None
    assert symmetric(document, "n")
    assert len([r for r in EV.regions(document) if r.shape.drawn == "n"]) == 1


def test_trimming_one_side_trims_the_other_and_nothing_else() -> None:
    bar = {"kind": "path", "id": "bar", "path": "M-40 8L40 8L40 12L-40 12Z"}
    far = {"kind": "shape", "id": "far", "form": "circle", "at": [200, 200], "width": 10, "height": 10}
    document = edited(shield(), do="put-drawn", things=[bar, far])
    # Clicked on the copy's side.
    trimmed = worked(EV, document, do="trim", seed="t", id="half", at=[-20, 10])
    half = next(t for t in trimmed.drawn if t.id == "half")
    assert half.follow is not None
    assert {t.id for t in trimmed.drawn} == {"half", "bar", "far"}
    lines = [line.contour.bounds for line in EV.art(trimmed).lines if line.id == "half"]
    assert lines
    for x0, _, x1, _ in lines:
        assert any(abs(x0 + b[2]) < 1e-6 and abs(x1 + b[0]) < 1e-6 for b in lines)


def test_easing_and_nodes_of_a_mirrored_thing_change_both_sides() -> None:
    document = shield()
    moved = worked(EV, document, do="move-nodes", id="half", nodes=[1], by=[3, 1])
    assert symmetric(moved, "half")
    inserted = worked(EV, moved, do="insert-node", id="half", at=[-22, 12])
    assert symmetric(inserted, "half")
    assert EV.flat(inserted).things[0].nodes == EV.flat(moved).things[0].nodes + 1
    plain = worked(EV, inserted, do="make-plain", picked=["half"])
    assert plain.drawn[0].follow is None
    assert symmetric(plain, "half")


def test_a_size_that_is_missed_by_less_than_can_be_read_is_no_remark() -> None:
    document = worked(EV, begun(), do="set-size", side="width", mm=40)
    after = EV.flat(edited(document, do="set-trace", picture="one", mode="colours"))
    assert after.size is not None
    assert 0 < abs(after.size.now - after.size.mm) < 0.01
    assert not any("were typed" in remark.text for remark in after.remarks)
