"""`drelo rehearse`: figures, layers and refusals, without a server."""

from __future__ import annotations

import json
import re

import numpy as np
import pytest
import trimesh

from drelo.cli.__main__ import main
from drelo.core.solid.making import Body
from drelo.core.solid.mesh import Mesh
from drelo.formats.stl import write_stl
from drelo.formats.threemf import write_3mf


def box(width: float, depth: float, height: float, z: float = 0.0) -> Mesh:
    solid = trimesh.creation.box([width, depth, height])
    solid.apply_translation([width / 2, depth / 2, z + height / 2])
    return Mesh(solid.vertices.astype(np.float32), solid.faces.astype(np.int32))


@pytest.fixture
def coaster(tmp_path):
    """Two filaments, one above the other."""
    path = tmp_path / "coaster.3mf"
    bodies = [Body("plate", "#2e3a4d", box(40, 40, 2)), Body("top", "#efe3c8", box(40, 40, 1, 2))]
    path.write_bytes(write_3mf(bodies))
    return path


def rehearsed(path, *words: str) -> dict:
    report = path.with_name("r.json")
    assert main(["rehearse", str(path), "--report", str(report), *words]) == 0
    found: dict = json.loads(report.read_text())
    return found


def test_a_coaster_of_two_filaments_says_one_change(coaster, tmp_path, capsys):
    filaments = tmp_path / "f.json"
    told = [{"name": "Night PLA", "colour": "#2e3a4d", "price": 20}, {"name": "Cream PLA", "colour": "#efe3c8"}]
    filaments.write_text(json.dumps(told))
    report = rehearsed(coaster, "--filaments", str(filaments), "--preset", "solid")
    assert [c["words"] for c in report["changes"]] == ["layer 11, z 2.0 mm: take out Night PLA, load Cream PLA"]
    assert "take out Night PLA, load Cream PLA" in capsys.readouterr().out
    volumes = [body["volume"] for body in report["bodies"]]
    assert volumes == [pytest.approx(3200, rel=0.02), pytest.approx(1600, rel=0.02)]
    assert report["bodies"][0]["price"] == pytest.approx(3.2 * 1.24 * 0.02, rel=0.02)
    assert report["troubles"] == []


def test_copies_take_beds_and_time(coaster, tmp_path):
    printer = tmp_path / "p.json"
    printer.write_text(json.dumps({"name": "Small", "width": 100, "depth": 90, "warm_up": 100}))
    report = rehearsed(coaster, "--printer", str(printer), "--copies", "6")
    assert [len(bed["places"]) for bed in report["beds"]] == [4, 2]
    one = rehearsed(coaster, "--printer", str(printer))
    assert report["grams"] == pytest.approx(6 * one["grams"])
    assert report["seconds"] > 5 * one["seconds"] / 2


def test_an_stl_has_layers_as_svg(tmp_path):
    path = tmp_path / "block.stl"
    path.write_bytes(write_stl(box(20, 10, 1)))
    rehearsed(path, "--layers", str(tmp_path / "layers"))
    names = sorted(p.name for p in (tmp_path / "layers").iterdir())
    assert names == [f"layer-{n}.svg" for n in range(1, 6)]
    first = (tmp_path / "layers" / "layer-1.svg").read_text()
    assert 'class="outer wall"' in first
    assert 'class="skin"' in first
    assert re.search(r'stroke-width="0\.440"', first)


def test_trouble_is_told(tmp_path, capsys):
    path = tmp_path / "tower.stl"
    path.write_bytes(write_stl(box(3, 3, 40)))
    assert rehearsed(path)["troubles"][0]["kind"] == "little hold"
    assert "little hold: layers 1 to 1" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["--printer", "{nozzle}"], "nozzle"),
        (["--filaments", "{colour}"], "colour"),
        (["--manner", "{walls}"], "walls"),
        (["--copies", "0"], "--copies"),
        (["--preset", "solid", "--manner", "{fine}"], "not both"),
        (["--printer", "{gone}"], "cannot be read"),
        (["--printer", "{broken}"], "JSON"),
    ],
)
def test_bad_settings_are_refused_by_name_and_nothing_is_written(coaster, tmp_path, capsys, words, told):
    files = {
        "nozzle": '{"nozzle": 9}',
        "colour": '[{"colour": "red"}]',
        "walls": '{"walls": 0}',
        "fine": "{}",
        "broken": '{"nozzle": ',
    }
    for name, text in files.items():
        (tmp_path / name).write_text(text)
    words = [str(tmp_path / word.strip("{}")) if word.startswith("{") else word for word in words]
    report = tmp_path / "r.json"
    assert main(["rehearse", str(coaster), "--report", str(report), *words]) == 1
    assert told in capsys.readouterr().err
    assert not report.exists()


@pytest.mark.parametrize("data", [b"", b"solid\nendsolid\n", b"PK\x03\x04 broken", bytes(200)])
def test_what_is_no_mesh_is_refused(tmp_path, capsys, data):
    path = tmp_path / "bad.stl"
    path.write_bytes(data)
    assert main(["rehearse", str(path)]) == 1
    assert capsys.readouterr().err.strip()


def test_an_open_mesh_is_refused(tmp_path, capsys):
    mesh = box(10, 10, 10)
    path = tmp_path / "open.stl"
    path.write_bytes(write_stl(Mesh(mesh.vertices, mesh.faces[:-1])))
    assert main(["rehearse", str(path)]) == 1
    assert "not sealed" in capsys.readouterr().err
