"""What cannot be is refused on the page as well: with its field and reason, and the piece stays as it was."""

from __future__ import annotations

import json
import math
from typing import Any

import pytest

SQUARE = {"kind": "path", "id": "sq", "path": "M0 0L30 0L30 20L0 20Z"}
RING = {"kind": "shape", "id": "ring", "form": "ring", "at": [60, 10], "width": 20, "height": 20, "inner": 8}
FORMS = ("relief", "stamp", "cutter", "nameplate")


def send(client, piece: dict[str, Any], edit: dict[str, Any], to: str = "edits"):
    # json.dumps writes NaN, as a broken client might.
    body = json.dumps({"revision": piece["revision"], "edit": edit})
    return client.post(f"/api/pieces/{piece['id']}/{to}", data=body, content_type="application/json")


def piece_of(client, *things: dict[str, Any]) -> dict[str, Any]:
    made = client.post("/api/pieces", json={"name": "Trial"}).json
    return send(client, made, {"do": "put-drawn", "things": list(things)}).json["piece"] if things else made


@pytest.fixture
def piece(client) -> dict[str, Any]:
    return piece_of(client, SQUARE, RING)


def stands(client, piece: dict[str, Any]) -> dict[str, Any]:
    return client.get(f"/api/pieces/{piece['id']}").json["piece"]


def regions(client, piece: dict[str, Any]) -> list[dict[str, Any]]:
    flat = client.get(f"/api/pieces/{piece['id']}").json["flat"]
    return [{"id": r["id"], "mark": r["mark"]} for r in flat["regions"]]


def refused(client, piece: dict[str, Any], edit: dict[str, Any]) -> dict[str, Any]:
    """The problem that an edit is answered with, made or only previewed; the piece is as before."""
    for to in ("preview", "solid", "edits"):
        answer = send(client, piece, edit, to)
        assert answer.status_code == 422, (to, answer.json)
        assert answer.content_type == "application/problem+json"
        assert answer.json["detail"]
    assert stands(client, piece)["revision"] == piece["revision"]
    return answer.json


@pytest.mark.parametrize("height", [math.nan, math.inf, 1e9, -1e9, "over", [1], {}])
def test_a_height_that_is_none_is_refused(client, piece, height):
    picked = regions(client, piece)
    assert "height" in refused(client, piece, {"do": "set-regions", "picked": picked, "height": height})["field"]
    assert "height" in refused(client, piece, {"do": "set-defaults", "height": height})["field"]


def test_what_would_sink_through_the_base_is_a_problem_until_it_fits(client, piece):
    picked = regions(client, piece)[:1]
    sunk = send(client, piece, {"do": "set-regions", "picked": picked, "height": -2.5}).json
    assert "would go through it" in sunk["flat"]["problem"]["message"]
    assert sunk["flat"]["problem"]["field"] == "height"
    now = sunk["piece"]
    solid = client.get(f"/api/pieces/{now['id']}/solid/{now['revision']}")
    assert solid.status_code == 422
    assert "would go through it" in solid.json["detail"]
    deeper = send(client, now, {"do": "set-base", "thickness": 4}).json
    assert deeper["flat"]["problem"] is None
    again = send(client, deeper["piece"], {"do": "set-base", "thickness": 2}).json
    assert "would go through it" in again["flat"]["problem"]["message"]


@pytest.mark.parametrize(
    "edit",
    [
        {"do": "set-base", "margin": -900},
        {"do": "set-base", "margin": math.nan},
        {"do": "set-base", "thickness": 0},
        {"do": "set-base", "shape": "heart"},
        {"do": "set-size", "side": "width", "mm": 0},
        {"do": "set-size", "side": "width", "mm": 10_000},
        {"do": "set-size", "side": "between", "mm": 20},
        {"do": "set-scale", "points": [[0, 0], [9, 9]], "mm": 20},
        {"do": "place-picture", "place": {"mm_per_px": 1}},
        {"do": "set-form", "form": "bowl"},
        {"do": "put-drawn", "things": [{**SQUARE, "path": "M0 0L1"}]},
        {"do": "put-drawn", "things": [{**SQUARE, "path": "M0 0L NaN 3Z"}]},
        {"do": "put-drawn", "things": [{**RING, "inner": 20}]},
        {"do": "put-drawn", "things": [{**RING, "width": -4}]},
        {"do": "put-drawn", "things": [{**RING, "at": [math.nan, 0]}]},
        {"do": "put-drawn", "things": [{"kind": "lettering", "id": "w", "text": " ", "at": [0, 0], "height": 9}]},
        {"do": "offset", "seed": "o", "picked": ["sq"], "by": -40},
        {"do": "offset", "seed": "o", "picked": ["sq"], "by": math.nan},
        {"do": "combine", "seed": "c", "how": "carve", "picked": ["sq"]},
        {"do": "combine", "seed": "c", "how": "overlap", "picked": ["sq", "ring"]},
        {"do": "combine", "seed": "c", "how": "unite", "picked": ["gone"]},
        {"do": "tie", "seed": "t", "picked": ["sq"], "width": 2},
        {"do": "tie", "seed": "t", "picked": ["sq", "ring"], "width": 0},
        {"do": "retie", "picked": ["sq"], "width": 2},
        {"do": "transform", "seed": "m", "picked": ["sq"], "matrix": [0, 0, 0, 0, 0, 0]},
        {"do": "pour", "seed": "p", "at": [200, 200]},
        {"do": "nothing"},
        {},
    ],
)
def test_what_cannot_be_done_is_refused_and_nothing_changes(client, piece, edit):
    refused(client, piece, edit)


@pytest.mark.parametrize("form", FORMS)
def test_a_piece_with_nothing_in_it_has_no_solid_and_no_file(client, form):
    empty = piece_of(client)
    formed = send(client, empty, {"do": "set-form", "form": form}).json["piece"]
    asked = {"revision": formed["revision"]}
    for answer in (
        client.get(f"/api/pieces/{formed['id']}/solid/{formed['revision']}"),
        client.post(f"/api/pieces/{formed['id']}/rehearsal", json=asked),
    ):
        assert answer.status_code == 422
        assert answer.json["detail"]
    body = {"revision": formed["revision"], "kind": "stl"}
    assert client.post(f"/api/pieces/{formed['id']}/take-away", json=body).status_code == 422


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("how", ["hidden", "left out"])
def test_when_everything_is_hidden_or_left_out_it_says_so(client, piece, form, how):
    formed = send(client, piece, {"do": "set-form", "form": form}).json["piece"]
    if how == "hidden":
        edit = {"do": "mark-drawn", "ids": ["sq", "ring"], "hidden": True}
    else:
        edit = {"do": "set-regions", "picked": regions(client, formed), "left_out": True}
    now = send(client, formed, edit).json["piece"]
    solid = client.get(f"/api/pieces/{now['id']}/solid/{now['revision']}")
    taken = client.post(f"/api/pieces/{now['id']}/take-away", json={"revision": now["revision"], "kind": "stl"})
    for answer in (solid, taken):
        assert answer.status_code == 422
        assert "No region is left" in answer.json["detail"]
    assert client.get(f"/api/pieces/{now['id']}").status_code == 200
    back = client.post(f"/api/pieces/{now['id']}/undo", json={"revision": now["revision"]}).json["piece"]
    assert client.get(f"/api/pieces/{back['id']}/solid/{back['revision']}").status_code == 200


def test_art_of_any_size_keeps_the_page_going(client):
    for scale, remark in ((0.001, "cannot print that"), (300.0, "most printers have a bed")):
        thing = {**SQUARE, "path": f"M0 0L{30 * scale} 0L{30 * scale} {20 * scale}L0 {20 * scale}Z"}
        piece = piece_of(client, thing)
        bare = send(client, piece, {"do": "set-base", "shape": "none"}).json
        assert any(remark in told["text"] for told in bare["flat"]["remarks"])
        now = bare["piece"]
        assert client.get(f"/api/pieces/{now['id']}/solid/{now['revision']}").data.startswith(b"glTF")
        body = {"revision": now["revision"], "kind": "3mf"}
        assert client.post(f"/api/pieces/{now['id']}/take-away", json=body).json["sealed"]


def test_a_crowd_of_shapes_is_told_and_refused_by_forms_that_cannot_hold_it(client):
    corners = [(3 * (i % 60), 3 * (i // 60)) for i in range(2400)]
    path = "".join(f"M{x} {y}L{x + 2} {y}L{x + 2} {y + 2}L{x} {y + 2}Z" for x, y in corners)
    piece = piece_of(client, {**SQUARE, "path": path})
    told = send(client, piece, {"do": "set-form", "form": "cutter"})
    assert "2400 separate shapes" in told.json["flat"]["problem"]["message"]
    piece = told.json["piece"]
    assert send(client, piece, {"do": "set-form", "form": "nameplate"}).status_code == 200


def test_broken_requests_are_problems_and_leave_nothing(client, piece):
    address = f"/api/pieces/{piece['id']}/edits"
    for data in (b"", b"{", b"[]", b'{"revision": 1}', b"\xff\xfe", b'{"revision": "x", "edit": {}}'):
        answer = client.post(address, data=data, content_type="application/json")
        assert answer.status_code in (400, 415, 422), answer.data
        assert "problem+json" in answer.content_type
    assert stands(client, piece)["revision"] == piece["revision"]


@pytest.mark.parametrize("address", ["/api/pieces/from-picture", "/api/motifs/file"])
def test_text_in_the_place_of_a_file_is_refused(client, address):
    answer = client.post(address, data={"picture": "hello", "drawing": "hello"}, content_type="multipart/form-data")
    assert answer.status_code == 422
    assert "file" in answer.json["detail"]


@pytest.mark.parametrize("body", [b"[" * 100_000, b'{"a":' * 100_000])
def test_what_nests_without_end_is_refused(client, body):
    answer = client.post("/api/pieces", data=body, content_type="application/json")
    assert answer.status_code == 422
