"""Recipes of all forms, words and DXF as art, and one recipe for a list of names."""

from __future__ import annotations

import itertools
import json
from pathlib import Path

import pytest
import shapely

from drelo.cli.__main__ import main
from drelo.core.outline.primitives import rectangle, ring
from drelo.core.rehearsal.beds import placed
from drelo.core.solid.seal import check_seal
from drelo.formats.beds import lay_out
from drelo.formats.dxf import Layer, write_dxf
from drelo.formats.name_list import read_names
from drelo.formats.stl import read_stl
from drelo.formats.threemf import read_3mf
from tests.refusals import refused

PLAIN = {"nameplate": {"fixing": {"kind": "none"}}}
ART = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
    '<path fill="#c8553d" d="M0 0H60V40H0Z"/><circle fill="#1d3557" cx="20" cy="20" r="10"/></svg>'
)


def build(folder: Path, recipe: dict, out: str = "out.stl") -> tuple[int, dict]:
    (folder / "art.svg").write_text(ART)
    (folder / "recipe.json").write_text(json.dumps({"drelo": 1, "art": {"file": "art.svg"}, **recipe}))
    report = folder / "report.json"
    code = main(["build", str(folder / "recipe.json"), "-o", str(folder / out), "--report", str(report)])
    return code, json.loads(report.read_text()) if report.exists() else {}


@pytest.mark.parametrize(
    ("recipe", "size", "parts"),
    [
        ({"form": "stamp"}, (66, 46, 5.7), 1),
        ({"form": "stamp", "base": {"margin": 5, "shape": "rectangle"}}, (70, 50, 5.7), 1),
        ({"form": "stamp", "stamp": {"grip": {"kind": "knob"}, "thickness": 4}}, (66, 46, 24.5), 1),
        ({"form": "cutter"}, (70.4, 50.4, 14), 1),
        ({"form": "cutter", "cutter": {"depth": 20, "flange_width": 0}}, (62.4, 42.4, 20), 1),
        ({"form": "nameplate", "nameplate": {"fixing": {"kind": "none"}}}, (66, 46, 4.2), 1),
        (
            {"form": "nameplate", "base": {"margin": 6, "thickness": 3}, "nameplate": {"fixing": {"kind": "none"}}},
            (72, 52, 4.8),
            1,
        ),
        ({"base": {"shape": "block", "block": [90, 80], "thickness": 10}}, (90, 80, 11), 1),
        ({"default_edge": {"kind": "round", "size": 0.5}}, (66, 46, 3), 1),
    ],
    ids=lambda v: str(v)[:40],
)
def test_every_form_is_built_sealed_with_its_numbers(tmp_path, recipe, size, parts):
    code, report = build(tmp_path, recipe)
    assert code == 0
    assert report["size_mm"] == pytest.approx(size, abs=0.02)
    assert report["separate_parts"] == parts
    mesh = read_stl((tmp_path / "out.stl").read_bytes())
    assert check_seal(mesh).sealed


@pytest.mark.parametrize(
    ("recipe", "path"),
    [
        ({"form": "stamp", "stamp": {"draft": 60}}, "stamp.draft"),
        ({"form": "stamp", "base": {"shape": "none"}}, "stamp.shape"),
        ({"form": "cutter", "cutter": {"edge": 3}}, "cutter.edge"),
        ({"form": "cutter", "cutter": {"depth": 4}}, "cutter.depth"),
        ({"form": "nameplate", "nameplate": {"foot": 99}}, "nameplate.foot"),
        ({"relief": {"inlay": "deep"}}, "relief.inlay"),
        ({"art": {"text": {"text": "a"}, "file": "art.svg"}}, "art"),
        ({"art": {"text": {"text": "a", "font": "nowhere.ttf"}}}, "nowhere.ttf"),
        ({"heights": [{"fill": "#c8553d", "height": 1, "edge": {"kind": "wavy"}}]}, "heights[0].edge.kind"),
    ],
    ids=lambda v: str(v)[:40],
)
def test_a_wrong_number_is_refused_with_its_path(tmp_path, capsys, recipe, path):
    code, _ = build(tmp_path, recipe)
    assert code == 1
    assert path in capsys.readouterr().err
    assert not (tmp_path / "out.stl").exists()


def test_words_are_art(tmp_path):
    recipe = {"art": {"text": {"text": "Bo", "font": "sans", "height": 20}}, "form": "nameplate"}
    code, report = build(tmp_path, recipe, "out.3mf")
    assert code == 0
    assert report["separate_parts"] == 1
    assert all(b["sealed"] for b in report["bodies"])


def test_a_dxf_is_art(tmp_path):
    data = write_dxf([Layer("plate", "#c8553d", [*ring(40, 20), rectangle(8, 8)])])
    (tmp_path / "art.dxf").write_bytes(data)
    code, report = build(tmp_path, {"art": {"file": "art.dxf"}, "base": {"shape": "none"}, "default_height": 2})
    assert code == 0
    assert report["size_mm"] == pytest.approx((40, 40, 2), abs=0.02)
    assert report["separate_parts"] == 2


NAMES = "name;plot\nHanna;3\nJürgen;4\n\nÅsa;5\n"


def batch(folder: Path, *more: str) -> int:
    recipe = {"drelo": 1, "art": {"text": {"text": "x", "height": 10}}, "form": "nameplate"}
    (folder / "recipe.json").write_text(json.dumps(recipe))
    (folder / "names.csv").write_text(NAMES)
    return main(["batch", str(folder / "recipe.json"), str(folder / "names.csv"), "-o", str(folder / "out"), *more])


def test_every_name_of_a_list_is_built(tmp_path):
    assert batch(tmp_path) == 0
    made = sorted(p.name for p in (tmp_path / "out").iterdir())
    assert made == ["1-hanna.stl", "2-jurgen.stl", "3-asa.stl"]
    for name in made:
        assert check_seal(read_stl((tmp_path / "out" / name).read_bytes())).sealed


def test_names_are_packed_on_beds(tmp_path):
    assert batch(tmp_path, "--bed", "70x60") == 0
    beds = sorted((tmp_path / "out").glob("bed-*.3mf"))
    bodies = [body for bed in beds for body in read_3mf(bed.read_bytes())]
    assert len({body.name.split(":")[0] for body in bodies}) == 3
    for body in bodies:
        assert check_seal(body.mesh).sealed
        assert body.mesh.vertices[:, 0].max() <= 70
        assert body.mesh.vertices[:, 1].max() <= 60


def test_one_bad_name_leaves_nothing_behind(tmp_path, capsys):
    recipe = {"drelo": 1, "art": {"text": {"text": "x", "font": "sans"}}, "form": "nameplate"}
    (tmp_path / "recipe.json").write_text(json.dumps(recipe))
    (tmp_path / "names.csv").write_text("Hanna\n" + "x" * 500 + "\n")
    assert main(["batch", str(tmp_path / "recipe.json"), str(tmp_path / "names.csv"), "-o", str(tmp_path / "out")]) == 1
    assert "at most" in capsys.readouterr().err
    assert not (tmp_path / "out").exists()


def test_lists_of_names():
    assert read_names("﻿Names\n Bo , 1\n\nLi\n".encode()) == ["Bo", "Li"]
    with refused("no name"):
        read_names(b"name\n\n")
    with refused("UTF-8"):
        read_names(b"\xff\xfe\x00")


def test_packed_pieces_keep_their_distance():
    outlines = [shapely.box(0, 0, *size) for size in ((30, 20), (50, 10), (40, 15), (60, 25), (20, 8))]
    beds = lay_out([str(i) for i in range(5)], outlines, (100, 50), 4)
    assert sorted(i for bed in beds for i, _ in bed) == list(range(5))
    for bed in beds:
        laid = [placed(outlines[i], place) for i, place in bed]
        assert all(shapely.box(0, 0, 100, 50).buffer(1e-6).covers(shape) for shape in laid)
        for one, other in itertools.combinations(laid, 2):
            assert one.distance(other) >= 4 - 1e-9
    with refused(r"Banner is 200\.0 × 5\.0 mm"):
        lay_out(["Bo", "Banner"], [outlines[0], shapely.box(0, 0, 200, 5)], (100, 50), 4)
