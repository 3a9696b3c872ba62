"""The past of a piece over HTTP."""

from __future__ import annotations

import io

import pytest


@pytest.fixture
def begun(client, ring_png) -> dict:
    answer = client.post("/api/pieces/from-picture", data={"picture": (io.BytesIO(ring_png), "ring.png")})
    assert answer.status_code == 200
    return answer.json


def edit(client, bench: dict, **change) -> dict:
    piece = bench["piece"]
    body = {"revision": piece["revision"], "edit": change}
    answer = client.post(f"/api/pieces/{piece['id']}/edits", json=body)
    assert answer.status_code == 200, answer.json
    return answer.json


def past(client, bench: dict) -> dict:
    answer = client.get(f"/api/pieces/{bench['piece']['id']}/versions")
    assert answer.status_code == 200
    return answer.json


def test_the_past_is_listed_in_lines(client, begun):
    one = edit(client, begun, do="set-base", thickness=2.4)
    two = edit(client, one, do="set-base", thickness=3.0)
    edit(client, two, do="set-units", units="inch")
    lines = past(client, begun)["lines"]
    assert [line["told"][0]["what"] for line in lines] == ["Units", "Base thickness", "Begun"]
    base = lines[1]
    assert (base["told"][0]["before"], base["told"][0]["after"], base["told"][0]["unit"]) == (2.0, 3.0, "mm")
    assert [s["revision"] for s in base["steps"]] == [two["piece"]["revision"], one["piece"]["revision"]]
    assert {line["where"] for line in lines} == {"past"}


def test_a_version_is_looked_at_without_touching_the_piece(client, begun):
    first = begun["flat"]["regions"][0]
    picked = [{"id": first["id"], "mark": first["mark"]}]
    gone = edit(client, begun, do="set-regions", picked=picked, left_out=True)
    now = edit(client, gone, do="set-base", thickness=3.0)
    piece, revision = begun["piece"]["id"], begun["piece"]["revision"]
    then = client.get(f"/api/pieces/{piece}/versions/{revision}").json
    assert then["document"] == begun["piece"]["document"]
    assert len(then["flat"]["regions"]) == len(begun["flat"]["regions"])
    assert then["regions"] == {"gone": [first["name"]], "new": [], "reshaped": []}
    assert {t["what"] for t in then["since"]} == {"Base thickness", "Region left out"}
    assert client.get(f"/api/pieces/{piece}").json["piece"]["revision"] == now["piece"]["revision"]


def test_size_and_volume_of_a_version(client, begun):
    now = edit(client, begun, do="set-base", thickness=3.0)
    at = f"/api/pieces/{begun['piece']['id']}/versions"
    then = client.get(f"{at}/{begun['piece']['revision']}/solid-figures").json
    later = client.get(f"{at}/{now['piece']['revision']}/solid-figures").json
    assert later["size_mm"][2] - then["size_mm"][2] == pytest.approx(1.0)
    assert later["volume_mm3"] > then["volume_mm3"]


def test_a_version_is_named_gone_back_to_and_begun_from(client, begun):
    now = edit(client, begun, do="set-base", thickness=3.0)
    piece, old = begun["piece"]["id"], begun["piece"]["revision"]
    at = f"/api/pieces/{piece}/versions/{old}"
    assert client.put(f"{at}/name", json={"name": "As sent"}).status_code == 204
    assert past(client, begun)["lines"][-1]["steps"][0]["name"] == "As sent"
    back = client.post(f"{at}/go-back", json={"revision": now["piece"]["revision"]}).json
    assert back["piece"]["document"] == begun["piece"]["document"]
    assert back["piece"]["can_undo"]
    lines = past(client, begun)["lines"]
    assert (lines[0]["told"][0]["what"], lines[0]["told"][0]["after"]) == ("Went back to", "As sent")
    undone = client.post(f"/api/pieces/{piece}/undo", json={"revision": back["piece"]["revision"]}).json
    assert undone["piece"]["document"] == now["piece"]["document"]
    fresh = client.post(f"{at}/piece").json
    assert fresh["name"].endswith("As sent")
    assert fresh["document"] == begun["piece"]["document"]
    assert not fresh["can_undo"]


def test_going_back_on_an_old_revision_is_a_conflict_and_a_lost_answer_is_made_once(client, begun):
    now = edit(client, begun, do="set-base", thickness=3.0)
    piece, old, stands = begun["piece"]["id"], begun["piece"]["revision"], now["piece"]["revision"]
    at = f"/api/pieces/{piece}/versions/{old}/go-back"
    key = {"Idempotency-Key": "0123456789abcdef"}
    once = client.post(at, json={"revision": stands}, headers=key).json
    again = client.post(at, json={"revision": stands}, headers=key)
    assert again.status_code == 200
    assert again.json["piece"]["revision"] == once["piece"]["revision"]
    other = client.post(at, json={"revision": stands})
    assert other.status_code == 409
    assert other.json["bench"]["piece"]["revision"] == once["piece"]["revision"]


def test_versions_of_another_piece_are_none(client, begun, ring_png):
    other = client.post("/api/pieces/from-picture", data={"picture": (io.BytesIO(ring_png), "other.png")}).json
    piece, foreign = begun["piece"]["id"], other["piece"]["revision"]
    at = f"/api/pieces/{piece}/versions/{foreign}"
    assert client.get(at).status_code == 404
    assert client.put(f"{at}/name", json={"name": "Mine"}).status_code == 404
    assert client.post(f"{at}/go-back", json={"revision": begun["piece"]["revision"]}).status_code == 404
    assert client.post(f"{at}/piece").status_code == 404
    assert client.put(f"/api/pieces/{piece}/versions/1/name", json={"name": "x" * 121}).status_code == 422
