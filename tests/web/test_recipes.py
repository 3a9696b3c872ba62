"""A piece of a recipe, over the wire."""

from __future__ import annotations

import io
import json

import pytest

from drelo.cli.__main__ import main
from drelo.formats.archive import zipped

SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="20mm" viewBox="0 0 40 20">
<path d="M0 0h40v20H0z" fill="#cc3300"/></svg>"""
RECIPE = {"drelo": 1, "art": {"file": "art.svg"}, "heights": [{"fill": "#cc3300", "height": 1.6, "name": "Bed"}]}


def send(client, *files: tuple[str, bytes]):
    return client.post("/api/pieces/from-recipe", data={"files": [(io.BytesIO(data), name) for name, data in files]})


def count(client) -> int:
    return len(client.get("/api/pieces").json["pieces"])


def test_a_recipe_and_its_art_make_a_piece(client):
    made = send(client, ("bed-plate.json", json.dumps(RECIPE).encode()), ("art.svg", SVG)).json
    assert made["piece"]["name"] == "Bed plate"
    region = made["flat"]["regions"][0]
    assert (region["name"], region["height"]) == ("Bed", 1.6)
    again = client.get(f"/api/pieces/{made['piece']['id']}").json
    assert again["flat"]["regions"] == made["flat"]["regions"]


def test_what_a_piece_gives_makes_it_again(client):
    made = send(client, ("recipe.zip", zipped({"r.json": json.dumps(RECIPE).encode(), "art.svg": SVG}))).json["piece"]
    given = client.post(f"/api/pieces/{made['id']}/recipe", json={"revision": made["revision"]}).json
    packed = client.get(given["url"]).data
    twin = send(client, (given["name"], packed)).json
    assert twin["flat"]["width"] == pytest.approx(40, abs=1e-3)
    assert twin["flat"]["regions"][0]["height"] == 1.6


def test_a_recipe_that_cannot_be_made_leaves_nothing_behind(client):
    before = count(client)
    for files in (
        [("recipe.json", json.dumps(RECIPE).encode())],
        [("recipe.json", b"[]"), ("art.svg", SVG)],
        [("recipe.json", json.dumps({**RECIPE, "default_height": 1e9}).encode()), ("art.svg", SVG)],
        [("../../recipe.zip", b"PK\x03\x04")],
    ):
        answer = send(client, *files)
        assert answer.status_code == 422, answer.json
        assert answer.json["detail"]
    assert client.post("/api/pieces/from-recipe", data={}).status_code == 422
    assert count(client) == before


def test_words_of_a_recipe_stay_words(client):
    words = {"drelo": 1, "form": "nameplate", "art": {"text": {"text": "Plot 14", "font": "slab"}}}
    made = send(client, ("plot.json", json.dumps(words).encode())).json
    assert made["piece"]["document"]["drawn"][0]["text"] == "Plot 14"
    assert made["flat"]["base_path"]


@pytest.mark.parametrize("form", ["relief", "stamp", "cutter", "nameplate"])
def test_page_and_command_line_write_the_same_bytes(client, tmp_path, form):
    recipe = {**RECIPE, "form": form}
    (tmp_path / "recipe.json").write_text(json.dumps(recipe))
    (tmp_path / "art.svg").write_bytes(SVG)
    assert main(["build", str(tmp_path / "recipe.json"), "-o", str(tmp_path / "built.stl")]) in (0, None)
    made = send(client, ("recipe.json", json.dumps(recipe).encode()), ("art.svg", SVG)).json["piece"]
    order = {"revision": made["revision"], "kind": "stl", "within": 0.008}
    taken = client.post(f"/api/pieces/{made['id']}/take-away", json=order).json
    assert client.get(taken["url"]).data == (tmp_path / "built.stl").read_bytes()
    # What was made once is found again, by a duplicate too.
    twin = client.post(f"/api/pieces/{made['id']}/duplicate").json
    order["revision"] = twin["revision"]
    client.patch(f"/api/pieces/{twin['id']}", json={"name": made["name"]})
    again = client.post(f"/api/pieces/{twin['id']}/take-away", json=order).json
    assert again["url"].split("?")[0] == taken["url"].split("?")[0]
