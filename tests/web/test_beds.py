"""Bed plans over the wire: several pieces on beds, moved and locked, and the 3MF of a bed as it is placed."""

from __future__ import annotations

import math

import numpy as np
import pytest

from drelo.core.solid.seal import check_seal
from drelo.formats.threemf import read_3mf


def piece(client, name: str, width: float, height: float) -> str:
    made = client.post("/api/pieces", json={"name": name}).json
    thing = {"kind": "shape", "id": "a", "form": "rectangle", "at": [0, 0], "width": width, "height": height}
    body = {"revision": made["revision"], "edit": {"do": "put-drawn", "things": [thing]}}
    assert client.post(f"/api/pieces/{made['id']}/edits", json=body).status_code == 200
    found: str = made["id"]
    return found


@pytest.fixture
def plan(client) -> dict:
    things = [
        {"piece": piece(client, "Coaster", 80, 80), "copies": 4},
        {"piece": piece(client, "Name plate", 70, 20), "copies": 6},
    ]
    answer = client.post("/api/beds", json={"things": things})
    assert answer.status_code == 200, answer.text
    return answer.json


def put(client, plan: dict, lay: str = "nothing", **change):
    body = {"version": plan["version"], "plan": {**plan["plan"], **change}, "lay": lay}
    return client.put(f"/api/beds/{plan['id']}", json=body)


def bodies_of(client, plan: dict, bed: int) -> list:
    made = client.post(f"/api/beds/{plan['id']}/{bed}/file").json
    return read_3mf(client.get(made["url"]).data)


def test_coasters_and_name_plates_lie_on_as_few_beds_as_possible(client, plan):
    assert plan["plan"]["name"] == "Coaster and 1 more"
    assert plan["amiss"] == [None] * 10
    assert {place["bed"] for place in plan["plan"]["places"]} == {0, 1}
    assert [p["title"] for p in plan["pieces"]] == ["Coaster", "Name plate"]
    # A base 3 mm wider all round.
    assert plan["pieces"][0]["size"][:2] == pytest.approx([86, 86])
    assert client.get("/api/beds").json["plans"][0]["copies"] == 10


def test_the_file_of_a_bed_has_every_copy_where_it_was_placed(client, plan):
    count = 0
    for bed in range(2):
        here = [place for place in plan["plan"]["places"] if place["bed"] == bed]
        bodies = bodies_of(client, plan, bed)
        assert all(check_seal(body.mesh).sealed for body in bodies)
        things = sorted({body.thing for body in bodies})
        assert len(things) == len(here)
        for place, thing in zip(here, things, strict=True):
            points = np.vstack([body.mesh.vertices for body in bodies if body.thing == thing])
            wide, deep, _ = plan["pieces"][place["thing"]]["size"]
            cos, sin = math.cos(place["turn"]), math.sin(place["turn"])
            corners = np.array([[0, 0], [wide, 0], [wide, deep], [0, deep]]) @ [[cos, sin], [-sin, cos]]
            low = corners.min(axis=0) + np.array([place["x"], place["y"]])
            assert points.min(axis=0)[:2] == pytest.approx(low, abs=0.05)
        assert points.min() > -1e-3
        assert points[:, :2].max() < 220 + 1e-3
        count += len(here)
    assert count == 10


def test_what_is_moved_and_locked_stays(client, plan):
    places = plan["plan"]["places"]
    moved = [{**places[0], "x": 3.0, "y": 130.0, "turn": 0.4, "locked": True}, *places[1:]]
    after = put(client, plan, places=moved).json
    assert after["plan"]["places"][0] == moved[0]
    assert "overlaps" in after["amiss"] or "over the edge" in after["amiss"]
    packed = put(client, after, "unlocked").json
    assert packed["plan"]["places"][0] == moved[0]
    assert packed["amiss"][1:] == [None] * 9
    # Another copy finds room while all others stay.
    things = [{**packed["plan"]["things"][0], "copies": 5}, packed["plan"]["things"][1]]
    more = put(client, packed, "new", things=things).json
    assert [p for p in more["plan"]["places"] if (p["thing"], p["copy_number"]) != (0, 4)] == packed["plan"]["places"]


def test_two_windows_do_not_overwrite_each_other(client, plan):
    assert put(client, plan, spacing=8).status_code == 200
    late = put(client, plan, spacing=2)
    assert late.status_code == 409
    assert late.json["type"].endswith("plan-moved")
    assert client.get(f"/api/beds/{plan['id']}").json["plan"]["spacing"] == 8


def test_a_bed_is_rehearsed_as_it_is_placed(client, plan):
    told = client.post(f"/api/beds/{plan['id']}/0/rehearsal").json
    report = told["report"]
    (place,) = report["beds"][0]["places"]
    low = [report["corner"][0], report["corner"][1]]
    assert (place["x"], place["y"], place["turn"]) == pytest.approx((*low, 0), abs=1e-3)
    assert {t["kind"] for t in report["troubles"]} == set()
    assert [c["layer"] for c in report["changes"]] == [11]
    assert report["grams"] > 10


def test_a_deleted_plan_is_gone_until_it_is_brought_back(client, plan):
    listed = [card["id"] for card in client.get("/api/beds").json["plans"]]
    left = client.delete(f"/api/beds/{plan['id']}").json["plans"]
    assert [card["id"] for card in left] == [name for name in listed if name != plan["id"]]
    assert client.get(f"/api/beds/{plan['id']}").status_code == 404
    assert put(client, plan).status_code == 404
    back = client.post(f"/api/beds/{plan['id']}/restore").json["plans"]
    assert plan["id"] in [card["id"] for card in back]
    assert client.get(f"/api/beds/{plan['id']}").json["plan"] == plan["plan"]
    assert client.post("/api/beds/nothing/restore").status_code == 404


def test_a_deleted_piece_says_so_and_the_rest_goes_on(client, plan):
    client.delete(f"/api/pieces/{plan['plan']['things'][0]['piece']}")
    found = client.get(f"/api/beds/{plan['id']}").json
    assert "deleted" in found["pieces"][0]["missing"]
    assert found["pieces"][1]["missing"] == ""
    assert bodies_of(client, plan, max(p["bed"] for p in plan["plan"]["places"] if p["thing"] == 1))
    left = put(client, found, "unlocked", things=[found["plan"]["things"][1]], places=[]).json
    assert len(left["plan"]["places"]) == 6


def test_nonsense_is_refused_and_nothing_is_kept(client, plan):
    twice = put(client, plan, things=[plan["plan"]["things"][0]] * 2)
    assert (twice.status_code, twice.json["field"]) == (422, "plan.things")
    nobody = [{**plan["plan"]["places"][0], "thing": 7}]
    assert put(client, plan, places=nobody).status_code == 422
    assert put(client, plan, "new", printer="tall-round").status_code == 200
    assert client.post(f"/api/beds/{plan['id']}/40/file").status_code == 422
    assert client.post("/api/beds", json={"things": [{"piece": "nowhere"}]}).status_code == 422
    assert client.post("/api/beds", json={"things": []}).status_code == 422
    huge = piece(client, "Banner", 400, 20)
    too_large = client.post("/api/beds", json={"things": [{"piece": huge}]})
    assert "fits on no bed" in too_large.json["detail"]
    client.delete(f"/api/beds/{plan['id']}")
    assert client.get(f"/api/beds/{plan['id']}").status_code == 404
    assert put(client, plan).status_code == 404
