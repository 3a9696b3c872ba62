"""A piece made of a recipe is the solid that the recipe builds from the command line."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any

import cv2
import numpy as np
import pytest

from drelo.cli.build import made
from drelo.core.errors import Refusal
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.memo import Memo
from drelo.formats.archive import MAX_FILES, zipped
from drelo.formats.fonts import shipped_font
from drelo.formats.recipe import read_recipe
from drelo.work import tasks
from tests.refusals import refused

SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">
<rect x="2" y="2" width="56" height="36" rx="5" fill="#336699"/>
<circle cx="18" cy="20" r="11" fill="#cc3300"/>
<path d="M34 8h18v24H34zM39 14v12h8V14z" fill-rule="evenodd" fill="#ffcc00"/>
<path d="M6 35L54 35" fill="none" stroke="#111111" stroke-width="1.6" stroke-linecap="round"/>
</svg>"""


def go() -> None:
    pass


def asset(key: str) -> bytes:
    return shipped_font(key.removeprefix("font:"))


def told(**fields: Any) -> bytes:
    return json.dumps({"drelo": 1, "art": {"file": "art.svg"}, **fields}).encode()


def begun(files: dict[str, bytes]) -> tuple[tasks.FromRecipe, Evaluation]:
    found = tasks.from_recipe(go, files)
    held = {sha: data for sha, (data, _) in found.assets.items()}
    return found, Evaluation(lambda key: held[key] if key in held else asset(key), Memo())


def same_as_built(tmp_path, files: dict[str, bytes]) -> tasks.FromRecipe:
    """Checks that the piece is the solid that `drelo build` makes of the same files."""
    for name, data in files.items():
        (tmp_path / name).write_bytes(data)
    plain = made(read_recipe(files["recipe.json"]), tmp_path, 0.008, False, "x")
    found, evaluated = begun(files)
    built = evaluated.made(found.document, 0.008)
    assert built.whole.size == pytest.approx(plain.report["size_mm"], abs=2e-3)
    bodies = {b["colour"]: b["volume_mm3"] for b in plain.report["bodies"]}
    assert {b.colour: b.mesh.volume for b in built.bodies} == pytest.approx(bodies, rel=1e-3)
    return found


HEIGHTS = [
    {"fill": "#336699", "height": 0.6, "colour": "#efe3c8", "name": "Field"},
    {"fill": "#CC3300", "height": 2.0, "edge": {"kind": "bevel", "size": 0.5}},
    {"fill": "#ffcc00", "height": -0.8},
]


@pytest.mark.parametrize("form", ["relief", "stamp", "cutter", "nameplate"])
def test_a_piece_of_a_drawing_is_the_solid_of_its_recipe(tmp_path, form):
    recipe = told(
        form=form,
        heights=HEIGHTS,
        base={"margin": 4, "thickness": 2.6, "corner_radius": 1.5, "colour": "#202428"},
        default_height=1.4,
    )
    found = same_as_built(tmp_path, {"recipe.json": recipe, "art.svg": SVG})
    assert found.document.form == form
    assert len(found.flat.regions) == 4


def test_the_typed_width_and_the_names_of_the_rules_come_along(tmp_path):
    recipe = told(art={"file": "art.svg", "width": 84}, heights=HEIGHTS)
    found = same_as_built(tmp_path, {"recipe.json": recipe, "art.svg": SVG})
    assert found.flat.width == pytest.approx(84, abs=1e-3)
    by_colour = {r.colour: r for r in found.flat.regions}
    assert by_colour["#336699"].name == "Field"
    assert by_colour["#cc3300"].edge is not None
    assert by_colour["#cc3300"].edge.kind == "bevel"
    assert by_colour["#ffcc00"].height == -0.8
    assert not by_colour["#111111"].decided_height


@pytest.mark.parametrize("text", [{"text": "Mossgate", "font": "script"}, {"text": "Plot\n14", "font": "slab"}])
def test_words_stay_words(tmp_path, text):
    recipe = told(art={"text": {**text, "height": 14}, "width": 70}, form="nameplate")
    found = same_as_built(tmp_path, {"recipe.json": recipe})
    only = found.document.drawn[0]
    assert only.kind == "lettering"
    assert only.text == text["text"]
    assert found.flat.width == pytest.approx(70, abs=0.01)


def test_an_own_font_is_kept_with_the_piece(tmp_path):
    recipe = told(art={"text": {"text": "Beet", "font": "own.woff2"}}, form="nameplate")
    found = same_as_built(tmp_path, {"recipe.json": recipe, "own.woff2": shipped_font("serif")})
    assert [media for _, media in found.assets.values()] == ["font/sfnt"]


def picture() -> bytes:
    canvas = np.full((300, 400, 3), 255, np.uint8)
    cv2.circle(canvas, (130, 150), 90, (20, 20, 20), -1, cv2.LINE_AA)
    cv2.rectangle(canvas, (260, 60), (370, 240), (20, 20, 20), -1)
    return bytes(cv2.imencode(".png", canvas)[1])


@pytest.mark.parametrize(
    "art",
    [
        {"file": "art.png", "width": 50},
        {"file": "art.png", "height": 30, "trace": {"level": 0.4, "silhouette": True}},
        {"file": "art.png", "trace": {"mm_per_px": 0.1, "area": [0, 0, 240, 300]}},
    ],
)
def test_a_picture_is_traced_as_the_recipe_says(tmp_path, art):
    recipe = told(art=art, heights=[{"fill": "#000000", "height": 1.8, "colour": "#efe3c8"}])
    found = same_as_built(tmp_path, {"recipe.json": recipe, "art.png": picture()})
    assert list(found.assets) == [picture.asset for picture in found.document.pictures]


def test_a_piece_goes_out_as_a_recipe_and_comes_back_the_same_solid():
    document, _ = begun({"recipe.json": told(heights=HEIGHTS), "art.svg": SVG})
    packed = tasks.recipe(go, document.document, {})
    again, evaluated = begun({"my-coaster.zip": packed})
    assert again.title == "my-coaster"
    before = Evaluation(asset, Memo()).made(document.document, 0.008)
    after = evaluated.made(again.document, 0.008)
    assert after.whole.volume == pytest.approx(before.whole.volume, rel=1e-3)
    assert after.whole.size == pytest.approx(before.whole.size, abs=2e-3)


def test_heights_and_forms_can_be_changed_afterwards():
    found, evaluated = begun({"recipe.json": told(heights=HEIGHTS), "art.svg": SVG})
    stamp = apply(found.document, EDIT.validate_python({"do": "set-form", "form": "stamp"}))
    back = apply(stamp, EDIT.validate_python({"do": "set-form", "form": "relief"}))
    assert evaluated.made(stamp, 0.02).whole.volume > 0
    assert {r.height for r in evaluated.flat(back).regions} == {0.6, 2.0, -0.8, 1.0}


@pytest.mark.parametrize(
    ("files", "says"),
    [
        ({"art.svg": SVG}, "no recipe among these files"),
        ({"a.json": told(), "b.json": told()}, "2 recipes"),
        ({"recipe.json": told()}, "names the file art.svg"),
        ({"recipe.json": told(art={"text": {"text": "Beet", "font": "own.ttf"}})}, "names the file own.ttf"),
        ({"recipe.json": b"{"}, "not valid JSON"),
        ({"recipe.json": told(form="bowl"), "art.svg": SVG}, "form"),
        ({"recipe.json": told(), "art.svg": b"<svg/>"}, "no visible filled"),
        ({"recipe.zip": b"PK\x03\x04 broken"}, "ZIP cannot be read"),
        ({"recipe.zip": zipped({f"{i}.txt": b"" for i in range(MAX_FILES + 1)})}, "more than"),
        ({"recipe.json": told(art={"file": "art.png", "width": 5000}), "art.png": picture()}, "2000"),
    ],
)
def test_what_makes_no_piece_is_refused_with_the_reason(files, says):
    with refused(says):
        tasks.from_recipe(go, files)


def test_a_zip_that_unpacks_to_too_much_is_refused():
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("recipe.json", told())
        archive.writestr("art.svg", b" " * (101 * 2**20))
    assert len(packed.getvalue()) < 2**20
    with refused("100 MB"):
        tasks.from_recipe(go, {"recipe.zip": packed.getvalue()})


def test_a_recipe_may_bring_more_colours_than_a_maker_adds():
    shapes = "".join(f'<rect x="{3 * i}" width="2" height="2" fill="#{i:02x}4080"/>' for i in range(20))
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="2mm" viewBox="0 0 60 2">{shapes}</svg>'
    found = tasks.from_recipe(go, {"recipe.json": told(), "art.svg": svg.encode()})
    assert len(found.document.filaments) == 21
    more = {"do": "set-filament", "id": "own", "name": "Own", "colour": "#123456"}
    with refused("at most 16"):
        apply(found.document, EDIT.validate_python(more))


def test_an_empty_piece_has_no_recipe():
    with pytest.raises(Refusal):
        tasks.recipe(go, Document(), {})
