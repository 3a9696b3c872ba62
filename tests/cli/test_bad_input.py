"""What cannot be built is refused with its reason and leaves no file; what is doubtful is built with a remark."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import pytest

from drelo.cli.__main__ import main

FORMS = ("relief", "stamp", "cutter", "nameplate")


def svg(width: float, height: float, body: str) -> str:
    size = f'width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}"'
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size}>{body}</svg>'


def squares(count: int) -> str:
    across = math.isqrt(count)
    cells = "".join(f'<path d="M{5 * (i % across)} {5 * (i // across)}h4v4h-4z"/>' for i in range(across * across))
    return svg(5 * across, 5 * across, cells)


ART = {
    "plain": svg(60, 40, '<path d="M5 5h50v30H5z" fill="#cc3300"/><circle cx="20" cy="20" r="8" fill="#3366cc"/>'),
    "empty": svg(60, 40, ""),
    "hidden": svg(60, 40, '<g display="none"><path d="M0 0h9v9z"/></g><path visibility="hidden" d="M0 0h9v9z"/>'),
    "unfilled": svg(60, 40, '<path d="M0 0h9v9z" fill="none"/>'),
    "flat": svg(60, 40, '<path d="M0 0L50 0"/>'),
    "not a number": svg(60, 40, '<path d="M0 0L NaN 0L10 10Z"/>'),
    "infinite": svg(60, 40, '<path d="M0 0L 1e400 0L10 10Z"/>'),
    "far": svg(60, 40, '<path d="M1e12 1e12h10v10h-10z"/>'),
    "words": "hello",
    "tiny": svg(0.1, 0.1, '<path d="M0 0h.1v.1H0z"/>'),
    "huge": svg(10_000, 10_000, '<path d="M0 0h10000v10000H0z"/>'),
}


def build(folder: Path, recipe: dict[str, Any], art: str = ART["plain"]) -> tuple[int, dict[str, Any]]:
    """Exit status, and the report when something was built. Nothing else may be left in the folder."""
    (folder / "art.svg").write_text(art)
    (folder / "recipe.json").write_text(json.dumps({"drelo": 1, "art": {"file": "art.svg"}, **recipe}))
    out, report = folder / "out.3mf", folder / "report.json"
    status = main(["build", str(folder / "recipe.json"), "-o", str(out), "--report", str(report)])
    left = {file.name for file in folder.iterdir()} - {"art.svg", "recipe.json"}
    assert left == ({"out.3mf", "report.json"} if status == 0 else set())
    return status, json.loads(report.read_text()) if status == 0 else {}


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize(
    ("art", "says"),
    [
        ("empty", "no visible filled"),
        ("hidden", "no visible filled"),
        ("unfilled", "no visible filled"),
        ("flat", "no visible filled"),
        ("not a number", "no visible filled"),
        ("infinite", "not numbers, or are far too large"),
        ("far", "not numbers, or are far too large"),
        ("words", "not an SVG"),
    ],
)
def test_art_that_holds_nothing_is_refused(tmp_path, capsys, form, art, says):
    assert build(tmp_path, {"form": form}, ART[art])[0] == 1
    told = capsys.readouterr().err
    assert "art.file" in told
    assert says in told


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize(
    ("height", "says"),
    [
        (math.nan, "finite number"),
        (math.inf, "finite number"),
        (-math.inf, "finite number"),
        (1e6, "less than or equal to 500"),
        (-1e6, "greater than or equal to -500"),
        ("over", "height"),
        (None, "height"),
        ([1], "height"),
    ],
)
def test_a_height_that_is_none_is_refused_with_its_place(tmp_path, capsys, form, height, says):
    heights = [{"fill": "#3366cc", "height": 1}, {"fill": "#cc3300", "height": height}]
    assert build(tmp_path, {"form": form, "heights": heights})[0] == 1
    told = capsys.readouterr().err
    assert "heights[1].height" in told
    assert says in told


@pytest.mark.parametrize("form", ["relief", "nameplate"])
def test_what_sinks_through_its_base_is_refused(tmp_path, capsys, form):
    assert build(tmp_path, {"form": form, "heights": [{"fill": "#cc3300", "height": -50}]})[0] == 1
    told = capsys.readouterr().err
    assert "heights[0].height" in told
    assert "would go through it" in told


@pytest.mark.parametrize("form", FORMS)
def test_art_ten_metres_wide_is_built_with_a_remark(tmp_path, form):
    status, report = build(tmp_path, {"form": form}, ART["huge"])
    assert status == 0
    assert all(body["sealed"] for body in report["bodies"])
    assert any("most printers have a bed" in remark for remark in report["warnings"])


@pytest.mark.parametrize("form", ["relief", "stamp", "nameplate"])
def test_art_a_tenth_of_a_millimetre_wide_is_built_sealed(tmp_path, form):
    status, report = build(
        tmp_path, {"form": form, "base": {"margin": 0}, "nameplate": {"fixing": {"kind": "none"}}}, ART["tiny"]
    )
    assert status == 0
    assert all(body["sealed"] for body in report["bodies"])
    assert report["size_mm"][0] == pytest.approx(0.1, abs=1e-3)
    assert any("cannot print that" in remark for remark in report["warnings"])


def test_art_too_small_for_a_cutter_is_refused(tmp_path, capsys):
    assert build(tmp_path, {"form": "cutter"}, ART["tiny"])[0] == 1
    assert "too small to cut" in capsys.readouterr().err


def test_what_is_higher_than_printers_is_built_with_a_remark(tmp_path):
    status, report = build(tmp_path, {"heights": [{"fill": "#cc3300", "height": 400}]})
    assert status == 0
    assert report["size_mm"][2] == pytest.approx(402)
    assert any("402 mm high" in remark for remark in report["warnings"])


def test_everything_cut_through_leaves_nothing_to_build(tmp_path, capsys):
    assert build(tmp_path, {"default_height": "through", "base": {"shape": "none"}})[0] == 1
    assert "nothing to build" in capsys.readouterr().err


@pytest.mark.parametrize(("form", "field"), [("stamp", "stamp.shape"), ("nameplate", "nameplate.shape")])
def test_forms_that_need_a_plate_say_so(tmp_path, capsys, form, field):
    assert build(tmp_path, {"form": form, "base": {"shape": "none"}})[0] == 1
    assert field in capsys.readouterr().err


@pytest.mark.parametrize(
    ("form", "says"), [("stamp", "at most 4615 are built"), ("cutter", "a cutter is made of at most 2000")]
)
def test_ten_thousand_shapes_are_refused_at_once_where_they_cannot_be_built(tmp_path, capsys, form, says):
    assert build(tmp_path, {"form": form}, squares(10_000))[0] == 1
    told = capsys.readouterr().err
    assert "10000 separate shapes" in told
    assert says in told


def test_more_faces_than_can_be_built_are_refused(tmp_path, capsys):
    bars = "".join(f'<path d="M0 {i}h260v.5H0z"/><path d="M{i} 0v260h.5V0z"/>' for i in range(260))
    assert build(tmp_path, {"base": {"shape": "none"}}, svg(260, 260, bars))[0] == 1
    assert "faces, and" in capsys.readouterr().err


@pytest.mark.parametrize("width", [0, -3, math.nan, math.inf, 1e9, "wide"])
def test_a_width_that_is_none_is_refused(tmp_path, capsys, width):
    assert build(tmp_path, {"art": {"file": "art.svg", "width": width}})[0] == 1
    assert "art.width" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("recipe", "field"),
    [
        ({"base": {"margin": -600}}, "base.margin"),
        ({"base": {"thickness": 0}}, "base.thickness"),
        ({"base": {"shape": "block", "block": [0, 10]}}, "base.block[0]"),
        ({"layer": 0}, "layer"),
        ({"relief": {"inlay": -1}}, "relief.inlay"),
        ({"stamp": {"draft": 90}}, "stamp.draft"),
        ({"stamp": {"grip": {"kind": "handle"}}}, "stamp.grip.kind"),
        ({"cutter": {"edge": math.nan}}, "cutter.edge"),
        ({"nameplate": {"foot": 89}}, "nameplate.foot"),
        ({"default_edge": {"kind": "round", "size": 0}}, "default_edge.size"),
        ({"nonsense": 1}, "nonsense"),
        ({"drelo": 2}, "drelo"),
        ({"units": "inch"}, "units"),
    ],
)
def test_numbers_out_of_range_are_refused_with_their_path(tmp_path, capsys, recipe, field):
    assert build(tmp_path, recipe)[0] == 1
    assert capsys.readouterr().err.startswith(f"{field}:")
