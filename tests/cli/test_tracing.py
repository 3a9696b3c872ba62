"""`drelo trace` and `drelo build` in all modes, as they are called."""

import json
import xml.etree.ElementTree as ET

import cv2
import numpy as np
import pytest

from drelo.cli.__main__ import main
from drelo.core.solid.seal import check_seal
from drelo.formats.stl import read_stl
from drelo.formats.svg_in import read_svg
from drelo.formats.threemf import read_3mf

SVG = "{http://www.w3.org/2000/svg}"


def run(*words) -> int:
    return main([str(w) for w in words])


def packed(rgb: np.ndarray) -> bytes:
    return cv2.imencode(".png", rgb[..., ::-1])[1].tobytes()


@pytest.fixture
def flag(tmp_path):
    rgb = np.full((120, 200, 3), 255, np.uint8)
    for k, colour in enumerate([(200, 40, 40), (40, 160, 60), (40, 60, 200)]):
        rgb[20:100, 25 + 50 * k : 75 + 50 * k] = colour
    (tmp_path / "flag.png").write_bytes(packed(rgb))
    return tmp_path / "flag.png"


@pytest.fixture
def cross(tmp_path):
    rgb = np.full((160, 160, 3), 255, np.uint8)
    cv2.line(rgb, (20, 80), (140, 80), (0, 0, 0), 4, cv2.LINE_AA)
    cv2.line(rgb, (80, 20), (80, 140), (0, 0, 0), 4, cv2.LINE_AA)
    (tmp_path / "cross.png").write_bytes(packed(rgb))
    return tmp_path / "cross.png"


@pytest.fixture
def flagpole(tmp_path):
    """A pole of 5 px with a filled pennant."""
    rgb = np.full((160, 200, 3), 255, np.uint8)
    cv2.line(rgb, (60, 20), (60, 150), (0, 0, 0), 4, cv2.LINE_AA)
    cv2.fillPoly(rgb, [np.array([(60, 20), (170, 50), (60, 80)])], (0, 0, 0), cv2.LINE_AA)
    (tmp_path / "flagpole.png").write_bytes(packed(rgb))
    return tmp_path / "flagpole.png"


def traced(picture, *options):
    out, report = picture.parent / "o.svg", picture.parent / "o.json"
    assert run("trace", picture, "-o", out, "--mm-per-px", 0.5, "--report", report, *options) == 0
    return ET.parse(out).getroot(), json.loads(report.read_text())


def test_colours_write_filled_paths_of_their_colour(flag):
    root, report = traced(flag, "--mode", "colours")
    paths = root.findall(f".//{SVG}path")
    assert {p.get("fill") for p in paths} == {"#c82828", "#28a03c", "#283cc8"}
    for path in paths:
        assert path.get("fill-rule") == "evenodd"
        assert {c for c in path.get("d") if c.isalpha()} <= set("MLCZ")
    assert report["mode"] == "colours"
    assert [c["background"] for c in report["colours"]].count(True) == 1
    assert sum(c["share"] for c in report["colours"]) == pytest.approx(1)


def test_neighbours_in_the_file_share_their_edges(flag):
    out = flag.parent / "o.svg"
    assert run("trace", flag, "-o", out, "--mode", "colours", "--mm-per-px", 1) == 0
    areas = [s.flattened(0.001) for s in read_svg(out.read_bytes()).shapes]
    joined = areas[0].union(areas[1]).union(areas[2])
    assert joined.area == pytest.approx(sum(a.area for a in areas), abs=1e-6)
    assert joined.geom_type == "Polygon"
    assert joined.area == pytest.approx(150 * 80, rel=3e-3)


def test_the_number_of_colours_is_taken(flag):
    root, report = traced(flag, "--mode", "colours", "--colours", 2)
    assert len(report["colours"]) == 2
    assert len({p.get("fill") for p in root.findall(f".//{SVG}path")}) == 1


def test_strokes_write_unfilled_paths_with_width(cross):
    root, report = traced(cross, "--mode", "strokes")
    paths = root.findall(f".//{SVG}path")
    assert len(paths) == 2
    for path in paths:
        assert path.get("fill") == "none"
        assert 1.5 < float(path.get("stroke-width")) < 4
        assert path.get("stroke-linecap") in ("round", "butt")
        assert path.get("stroke-linejoin") in ("round", "miter")
        assert not path.get("d").endswith("Z")
    assert report["profiles"] == 2


def test_strokes_read_back_cover_what_was_inked(cross):
    out = cross.parent / "o.svg"
    assert run("trace", cross, "-o", out, "--mode", "strokes", "--mm-per-px", 1) == 0
    first, second = (s.flattened(0.01) for s in read_svg(out.read_bytes()).shapes)
    ink = (255 - cv2.imread(str(cross), cv2.IMREAD_GRAYSCALE).astype(float)).sum() / 255
    assert first.union(second).area == pytest.approx(ink, rel=0.03)


def test_filled_shapes_among_strokes_are_filled_paths(flagpole):
    root, report = traced(flagpole, "--mode", "strokes")
    kinds = [path.get("fill") for path in root.findall(f".//{SVG}path")]
    assert sorted(kinds) == ["#000000", "none"]
    assert report["profiles"] == 2
    pennant, pole = (s.flattened(0.01) for s in read_svg((flagpole.parent / "o.svg").read_bytes()).shapes)
    ink = (255 - cv2.imread(str(flagpole), cv2.IMREAD_GRAYSCALE).astype(float)).sum() / 255
    # With a piece of the pole.
    assert 110 * 60 / 2 / 4 < pennant.area < 110 * 60 / 2 / 4 + 5 * 70 / 4
    assert pennant.union(pole).area == pytest.approx(ink / 4, rel=0.03)


@pytest.mark.parametrize("mode", ["ink", "colours", "strokes"])
def test_the_same_bytes_and_settings_give_the_same_outline(flag, mode):
    one, two = flag.parent / "1.svg", flag.parent / "2.svg"
    for out in (one, two):
        assert run("trace", flag, "-o", out, "--mode", mode) == 0
    assert one.read_bytes() == two.read_bytes()


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (["--mode", "colours", "--colours", "1"], "between 2 and 24"),
        (["--colours", "4"], "goes with --mode colours"),
        (["--mode", "colours", "--level", "0.4"], "goes with --mode ink or strokes"),
        (["--mode", "strokes", "--smooth", "3"], "Calmness"),
        (["--mode", "colours", "--area", "500,500,10,10"], "outside the picture"),
    ],
)
def test_options_that_do_not_fit_are_refused(flag, capsys, options, words):
    out = flag.parent / "no.svg"
    assert run("trace", flag, "-o", out, *options) == 1
    assert words in capsys.readouterr().err
    assert not out.exists()


@pytest.mark.parametrize("mode", ["ink", "colours", "strokes"])
def test_only_the_area_is_traced_in_the_whole_pictures_coordinates(flag, mode):
    root, _ = traced(flag, "--mode", mode, "--area", "20,10,60,100")
    shapes = read_svg((flag.parent / "o.svg").read_bytes()).shapes
    box = np.array([s.flattened(0.01).bounds for s in shapes])
    assert box[:, 0].min() > 10
    assert box[:, 2].max() < 42
    assert root.get("width") == "100mm"


def recipe(folder, picture, **trace):
    value = {
        "drelo": 1,
        "art": {"file": picture.name, "width": 60, "trace": trace},
        "base": {"shape": "rectangle", "margin": 2, "thickness": 2},
        "heights": [{"fill": "#c82828", "height": 1.5}, {"fill": "#28a03c", "height": 0}],
        "default_height": 1.0,
    }
    (folder / "r.json").write_text(json.dumps(value))
    return folder / "r.json"


def test_colours_become_bodies(tmp_path, flag):
    out = tmp_path / "flag.3mf"
    assert run("build", recipe(tmp_path, flag, mode="colours"), "-o", out) == 0
    bodies = read_3mf(out.read_bytes())
    assert {b.colour for b in bodies} == {"#30343b", "#c82828", "#28a03c", "#283cc8"}
    assert all(check_seal(b.mesh).sealed for b in bodies)
    red = next(b for b in bodies if b.colour == "#c82828")
    assert red.mesh.volume == pytest.approx(20 * 32 * 1.5, rel=5e-3)


def test_strokes_become_walls(tmp_path, cross):
    out = tmp_path / "cross.stl"
    assert run("build", recipe(tmp_path, cross, mode="strokes"), "-o", out) == 0
    seal = check_seal(read_stl(out.read_bytes()))
    assert seal.sealed
    assert seal.parts == 1
    assert seal.size == pytest.approx((64, 64, 3), abs=0.3)


def test_strokes_and_filled_shapes_are_built_together(tmp_path, flagpole):
    out = tmp_path / "flagpole.stl"
    assert run("build", recipe(tmp_path, flagpole, mode="strokes"), "-o", out) == 0
    seal = check_seal(read_stl(out.read_bytes()))
    assert seal.sealed
    assert seal.parts == 1
    plain = tmp_path / "ink.stl"
    assert run("build", recipe(tmp_path, flagpole), "-o", plain) == 0
    volumes = [read_stl(p.read_bytes()).volume for p in (out, plain)]
    assert volumes[0] == pytest.approx(volumes[1], rel=0.005)


@pytest.mark.parametrize(
    ("trace", "path"),
    [
        ({"mode": "pixels"}, "art.trace.mode"),
        ({"mode": "colours", "colours": 40}, "art.trace.colours"),
        ({"smooth": 2}, "art.trace.smooth"),
    ],
)
def test_wrong_trace_options_in_a_recipe_name_their_path(tmp_path, flag, capsys, trace, path):
    assert run("build", recipe(tmp_path, flag, **trace), "-o", tmp_path / "no.stl") == 1
    assert path in capsys.readouterr().err
    assert not (tmp_path / "no.stl").exists()


@pytest.fixture
def ring(tmp_path):
    """A ring with a pinhole in it, a dot in its hole, and a speck beside it."""
    rgb = np.full((200, 240, 3), 255, np.uint8)
    cv2.circle(rgb, (100, 100), 80, (0, 0, 0), -1, cv2.LINE_AA)
    cv2.circle(rgb, (100, 100), 50, (255, 255, 255), -1, cv2.LINE_AA)
    cv2.circle(rgb, (100, 100), 12, (0, 0, 0), -1, cv2.LINE_AA)
    cv2.circle(rgb, (35, 100), 3, (255, 255, 255), -1, cv2.LINE_AA)
    rgb[20:25, 210:215] = 0
    (tmp_path / "ring.png").write_bytes(packed(rgb))
    return tmp_path / "ring.png"


def figures(picture, *options) -> dict:
    out, report = picture.parent / "out.svg", picture.parent / "report.json"
    assert run("trace", picture, "-o", out, "--report", report, *options) == 0
    return json.loads(report.read_text())


def test_specks_and_pinholes_have_sizes_of_their_own(ring):
    everything = figures(ring, "--speck", "1")
    assert (everything["profiles"], everything["holes"]) == (3, 2)
    no_specks = figures(ring, "--speck", "60", "--pinhole", "1")
    assert (no_specks["profiles"], no_specks["holes"], no_specks["pinholes_filled"]) == (2, 2, 0)
    no_pinholes = figures(ring, "--speck", "1", "--pinhole", "60")
    assert (no_pinholes["profiles"], no_pinholes["holes"]) == (3, 1)
    assert (no_pinholes["specks_dropped"], no_pinholes["pinholes_filled"]) == (1, 1)


def test_only_the_outer_silhouette(ring):
    found = figures(ring, "--silhouette", "--speck", "60")
    assert (found["profiles"], found["holes"]) == (1, 0)


def test_round_corners_keep_their_area_at_any_keenness(tmp_path):
    y, x = np.mgrid[:160, :160] + 0.5
    soft = np.clip(60.5 - (np.abs(x - 80) ** 5 + np.abs(y - 80) ** 5) ** 0.2, 0, 1)
    (tmp_path / "soft.png").write_bytes(packed(np.repeat((255 * (1 - soft)).astype(np.uint8)[..., None], 3, axis=2)))
    picture = tmp_path / "soft.png"
    areas = []
    for keen in ("0", "1"):
        figures(picture, "--keen", keen)
        (shape,) = read_svg((tmp_path / "out.svg").read_bytes()).shapes
        areas.append(abs(shape.contours[0].area))
    assert areas[0] == pytest.approx(areas[1], rel=5e-3)


@pytest.mark.parametrize(("background", "profiles"), [("#c82828", 3), ("none", 4), ("#ffffff", 3)])
def test_the_background_can_be_named(flag, background, profiles):
    assert figures(flag, "--mode", "colours", "--background", background)["profiles"] == profiles


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (["--mode", "colours", "--pinhole", "5"], "--pinhole goes with --mode ink"),
        (["--mode", "strokes", "--silhouette"], "--silhouette goes with --mode ink"),
        (["--background", "#ffffff"], "--background goes with --mode colours"),
        (["--mode", "colours", "--background", "white"], "a colour like"),
        (["--pinhole", "-4"], "size of pinholes"),
        (["--keen", "2"], "keenness"),
    ],
)
def test_new_options_are_refused_where_they_do_not_fit(flag, capsys, options, words):
    assert run("trace", flag, "-o", flag.parent / "no.svg", *options) == 1
    assert words in capsys.readouterr().err


def test_a_recipe_takes_every_option_of_a_trace(ring):
    recipe = {
        "drelo": 1,
        "art": {"file": "ring.png", "width": 40, "trace": {"silhouette": True, "speck": 60, "keen": 0.7, "pinhole": 9}},
        "base": {"shape": "none"},
    }
    (ring.parent / "r.json").write_text(json.dumps(recipe))
    report = ring.parent / "b.json"
    assert run("build", ring.parent / "r.json", "-o", ring.parent / "r.stl", "--report", report) == 0
    (body,) = json.loads(report.read_text())["bodies"]
    # The silhouette is a whole disc of 40 mm, one high.
    assert body["volume_mm3"] == pytest.approx(np.pi * 20**2, rel=5e-3)
    assert body["sealed"]
