"""The headless commands as they are called."""

import json
import subprocess
import sys
import xml.etree.ElementTree as ET

import numpy as np
import pytest
from PIL import Image

from drelo.cli.__main__ import main
from drelo.core.solid.seal import check_seal
from drelo.formats.stl import read_stl
from drelo.formats.svg_in import read_svg
from drelo.formats.threemf import read_3mf
from tests.conftest import ROOT, png
from tests.core.test_picture import BAD, bomb

ART = """<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="60mm" viewBox="0 0 100 60">
<rect x="10" y="10" width="40" height="40" fill="#c8553d"/>
<circle cx="50" cy="30" r="15" fill="#1d3557"/>
<rect x="70" y="20" width="20" height="20" fill="#3f6b3a"/></svg>"""


def recipe(folder, **change):
    value = {
        "drelo": 1,
        "art": {"file": "art.svg", "width": 80},
        "base": {"shape": "rectangle", "margin": 3, "thickness": 2},
        "heights": [
            {"fill": "#c8553d", "height": 1.2, "name": "bed"},
            {"fill": "#1d3557", "height": -0.6},
            {"fill": "#3f6b3a", "height": "through"},
        ],
        **change,
    }
    (folder / "art.svg").write_text(ART)
    (folder / "r.json").write_text(json.dumps(value))
    return folder / "r.json"


def run(*words) -> int:
    return main([str(w) for w in words])


def test_trace_writes_closed_profiles_in_mm(tmp_path, ring_png):
    (tmp_path / "ring.png").write_bytes(ring_png)
    out, report = tmp_path / "ring.svg", tmp_path / "r.json"
    assert run("trace", tmp_path / "ring.png", "-o", out, "--mm-per-px", 0.5, "--report", report) == 0
    root = ET.parse(out).getroot()
    assert (root.get("width"), root.get("height"), root.get("viewBox")) == ("210mm", "150mm", "0 0 210 150")
    paths = root.findall(".//{http://www.w3.org/2000/svg}path")
    assert len(paths) == 2
    for path in paths:
        assert path.get("fill-rule") == "evenodd"
        assert {c for c in path.get("d") if c.isalpha()} <= set("MLCZ")
        assert path.get("d").count("M") == path.get("d").count("Z")
    figures = json.loads(report.read_text())
    assert figures["pixels"] == [420, 300]
    assert (figures["profiles"], figures["holes"]) == (2, 1)
    assert figures["nodes"] == sum(figures["segments"].values())
    area = read_svg(out.read_bytes()).shapes[0].flattened(0.001).area
    assert area == pytest.approx(np.pi * (60**2 - 30**2), rel=5e-3)


def test_trace_options_are_heard(tmp_path, ring_png):
    (tmp_path / "ring.png").write_bytes(ring_png)

    def shapes(*options):
        assert run("trace", tmp_path / "ring.png", "-o", tmp_path / "o.svg", "--mm-per-px", 1, *options) == 0
        return [s.flattened(0.01) for s in read_svg((tmp_path / "o.svg").read_bytes()).shapes]

    assert len(shapes("--speck", 7000)) == 1
    assert len(shapes("--area", "300,90,110,120")) == 1
    inverted = shapes("--invert")
    assert sum(s.area for s in inverted) + sum(s.area for s in shapes()) == pytest.approx(420 * 300, rel=1e-3)
    assert shapes("--smooth", 0)[0].area == pytest.approx(shapes("--smooth", 1)[0].area, rel=1e-2)
    assert shapes("--level", "auto")[0].equals(shapes()[0])


def test_trace_takes_the_pictures_own_resolution(tmp_path):
    image = Image.new("L", (100, 100), 255)
    image.paste(0, (20, 20, 80, 80))
    image.save(tmp_path / "a.png", dpi=(254, 254))
    assert run("trace", tmp_path / "a.png", "-o", tmp_path / "a.svg") == 0
    assert ET.parse(tmp_path / "a.svg").getroot().get("width") == "10mm"


@pytest.mark.parametrize("out", ["o.stl", "o.3mf"])
def test_build_makes_what_the_recipe_says(tmp_path, out):
    report = tmp_path / "report.json"
    assert run("build", recipe(tmp_path), "-o", tmp_path / out, "--report", report) == 0
    figures = json.loads(report.read_text())
    assert figures["size_mm"] == pytest.approx([86, 46, 3.2], abs=1e-3)
    assert figures["separate_parts"] == 1
    assert all(body["sealed"] for body in figures["bodies"])
    # The circle covers part of the square: 40 × 40 less the lens where they overlap.
    circle, bed = np.pi * 15**2, 40 * 40 - np.pi * 15**2 / 2
    volume = 2 * (86 * 46 - 400) + 1.2 * bed - 0.6 * circle
    assert sum(b["volume_mm3"] for b in figures["bodies"]) == pytest.approx(volume, rel=2e-4)
    if out.endswith("3mf"):
        bodies = read_3mf((tmp_path / out).read_bytes())
        assert [(b.name, b.colour) for b in bodies] == [("base", "#30343b"), ("bed", "#c8553d")]
    assert run("check", tmp_path / out) == 0


def test_build_is_not_mirrored_and_starts_at_the_corner(tmp_path):
    art = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 96 96"><path d="M0 0H20V10H10V50H0Z"/></svg>'
    path = recipe(tmp_path, art={"file": "l.svg", "height": 50}, base={"shape": "none"}, heights=[])
    (tmp_path / "l.svg").write_text(art)
    assert run("build", path, "-o", tmp_path / "o.stl") == 0
    mesh = read_stl((tmp_path / "o.stl").read_bytes())
    assert mesh.vertices.min(axis=0) == pytest.approx([0, 0, 0])
    assert mesh.size == pytest.approx((20, 50, 1))
    right = mesh.vertices[mesh.vertices[:, 0] > 15]
    assert right[:, 1].min() == pytest.approx(40)


@pytest.mark.parametrize("shape", ["outline", "rectangle", "circle", "none"])
@pytest.mark.parametrize("quality", ["draft", "fine"])
def test_every_base_and_quality_is_sealed(tmp_path, shape, quality):
    heights = [{"fill": "#c8553d", "height": 1}, {"fill": "#1d3557", "height": 0 if shape != "none" else 2}]
    path = recipe(tmp_path, base={"shape": shape, "margin": 2}, heights=heights)
    assert run("build", path, "-o", tmp_path / "o.3mf", "--quality", quality) == 0
    assert run("check", tmp_path / "o.3mf") == 0


def test_build_from_a_picture(tmp_path, ring_png):
    (tmp_path / "ring.png").write_bytes(ring_png)
    path = recipe(tmp_path, art={"file": "ring.png", "width": 35, "trace": {"smooth": 0.4}}, heights=[])
    assert run("build", path, "-o", tmp_path / "o.stl", "--report", tmp_path / "r2.json") == 0
    assert json.loads((tmp_path / "r2.json").read_text())["size_mm"][0] == pytest.approx(41, abs=2e-3)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"heights": [{"fill": "#1d3557", "height": -2}]}, "heights[0].height: "),
        ({"base": {"shape": "none"}, "heights": [{"fill": "#1d3557", "height": -1}]}, "needs a base"),
        ({"base": {"shape": "star"}}, "base.shape"),
        ({"art": {"file": "missing.svg"}}, "missing.svg"),
        ({"art": {"file": "art.svg", "width": 10, "height": 10}}, "not both"),
        ({"default_height": "high"}, "default_height"),
        ({"form": "teapot"}, "form"),
    ],
)
def test_wrong_recipes_leave_no_file(tmp_path, capsys, change, words):
    path = recipe(tmp_path, **change)
    assert run("build", path, "-o", tmp_path / "o.3mf") == 1
    error = capsys.readouterr().err
    assert error.count("\n") == 1
    assert words in error
    assert not [p for p in tmp_path.iterdir() if "o.3mf" in p.name]


@pytest.mark.parametrize("name", [*BAD, "bomb", "white"])
def test_bad_pictures_leave_no_file(tmp_path, capsys, name):
    data = bomb() if name == "bomb" else png(Image.new("L", (90, 90), 255)) if name == "white" else BAD[name]
    (tmp_path / "a.png").write_bytes(data)
    assert run("trace", tmp_path / "a.png", "-o", tmp_path / "o.svg") == 1
    error = capsys.readouterr().err
    assert error.count("\n") == 1
    assert len(error) > 30
    assert [p.name for p in tmp_path.iterdir()] == ["a.png"]


def test_check_says_what_is_wrong(tmp_path, capsys):
    assert run("build", recipe(tmp_path), "-o", tmp_path / "o.stl") == 0
    data = bytearray((tmp_path / "o.stl").read_bytes())
    count = int.from_bytes(data[80:84], "little")
    data[80:84] = (count - 1).to_bytes(4, "little")
    (tmp_path / "holed.stl").write_bytes(data[:-50])
    assert run("check", tmp_path / "holed.stl", "--report", tmp_path / "c.json") == 1
    assert "hole" in capsys.readouterr().err
    assert json.loads((tmp_path / "c.json").read_text())["sealed"] is False
    assert not check_seal(read_stl((tmp_path / "holed.stl").read_bytes())).sealed


@pytest.mark.parametrize(
    "words",
    [
        ["trace"],
        ["trace", "a.png"],
        ["build", "r.json", "-o", "o.obj"],
        ["trace", "a.png", "-o", "b", "--level", "x"],
        [],
    ],
)
def test_wrong_words_are_exit_status_two(words):
    done = subprocess.run([sys.executable, "-m", "drelo.cli", *words], capture_output=True, check=False, cwd=ROOT)
    assert done.returncode == 2


def test_headless_commands_load_neither_database_nor_web():
    code = (
        "import sys; from drelo.cli.__main__ import main\n"
        "try: main(['trace', '--help'])\nexcept SystemExit: pass\n"
        "print(sorted(m for m in ('flask', 'sqlalchemy', 'pymysql', 'waitress') if m in sys.modules))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip().endswith("[]")
