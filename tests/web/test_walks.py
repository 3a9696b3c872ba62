"""Any walk of changes can be taken back step by step and made again, and differences lead where whole answers do."""

from __future__ import annotations

import random
from typing import Any

import pytest

from drelo.web.schemas.bench import DocumentPart, FlatPart

THINGS = [
    {"kind": "path", "id": "plate", "path": "M0 0L60 0L60 40L0 40Z"},
    {"kind": "shape", "id": "disc", "form": "circle", "at": [20, 20], "width": 18, "height": 18},
    {"kind": "shape", "id": "star", "form": "star", "at": [44, 20], "width": 20, "height": 20, "inner": 9, "sides": 5},
    {"kind": "lettering", "id": "word", "text": "Beet", "at": [30, 52], "height": 8, "font": "font:sans"},
]


def send(client, piece: dict[str, Any], edit: dict[str, Any], **more: Any):
    return client.post(f"/api/pieces/{piece['id']}/edits", json={"revision": piece["revision"], "edit": edit, **more})


@pytest.fixture
def piece(client) -> dict[str, Any]:
    made = client.post("/api/pieces", json={"name": "Walk"}).json
    return send(client, made, {"do": "put-drawn", "things": THINGS}).json["piece"]


def bench(client, piece: dict[str, Any]) -> dict[str, Any]:
    return client.get(f"/api/pieces/{piece['id']}").json


def step(rng: random.Random, flat: dict[str, Any], number: int) -> dict[str, Any]:
    """A change such as a hand makes, of one kind or another."""
    ids = sorted({r["drawn"] for r in flat["regions"] if r["drawn"]})
    region = rng.choice(flat["regions"])
    picked = [{"id": region["id"], "mark": region["mark"]}]
    seed = f"s{number}"
    return rng.choice(
        [
            {"do": "set-regions", "picked": picked, "height": rng.choice([0, -0.6, 1.8, 2.4, "through"])},
            {"do": "set-regions", "picked": picked, "name": f"Part {number}"},
            {"do": "set-regions", "picked": picked, "filament": rng.choice(["leaf", "clay", "moss"])},
            {"do": "set-regions", "picked": picked, "edge": {"kind": "bevel", "size": 0.4}},
            {"do": "set-defaults", "height": rng.choice([0.8, 1.4])},
            {"do": "set-base", "margin": rng.choice([2, 4]), "shape": rng.choice(["outline", "rectangle", "circle"])},
            {"do": "set-form", "form": rng.choice(["relief", "nameplate", "stamp", "cutter"])},
            {
                "do": "transform",
                "seed": seed,
                "picked": [rng.choice(ids)],
                "matrix": [1, 0, 0, 1, rng.choice([-2, 3]), 1],
            },
            {"do": "transform", "seed": seed, "picked": [rng.choice(ids)], "matrix": [1, 0, 0, 1, 70, 0], "copies": 1},
            {"do": "offset", "seed": seed, "picked": [rng.choice(ids)], "by": 1.5, "keep": True},
            {"do": "lift", "seed": seed, "picked": [rng.choice(ids)]},
            {"do": "mark-drawn", "ids": [rng.choice(ids)], "name": f"Thing {number}"},
            {"do": "order-drawn", "ids": [rng.choice(ids)], "to": rng.choice(["top", "bottom"])},
            {"do": "remove", "picked": [rng.choice(ids)]},
        ]
    )


@pytest.mark.parametrize("seed", range(6))
def test_a_walk_is_taken_back_and_made_again(client, piece, seed):
    rng = random.Random(seed)
    trail = [bench(client, piece)]
    for number in range(14):
        edit = step(rng, trail[-1]["flat"], number)
        answer = send(client, trail[-1]["piece"], edit)
        # What cannot be is refused and leaves no step behind.
        assert answer.status_code in (200, 422), answer.json
        if answer.status_code == 200:
            trail.append({"piece": answer.json["piece"], "flat": answer.json["flat"]})
        if len(trail[-1]["flat"]["regions"]) < 2:
            break
    assert len(trail) > 4

    def same(one: dict[str, Any], other: dict[str, Any]) -> None:
        assert one["piece"]["document"] == other["piece"]["document"]
        assert one["flat"] == other["flat"]

    now = trail[-1]
    for before in reversed(trail[:-1]):
        body = {"revision": now["piece"]["revision"]}
        now = client.post(f"/api/pieces/{piece['id']}/undo", json=body).json
        same(now, before)
    for after in trail[1:]:
        body = {"revision": now["piece"]["revision"]}
        now = client.post(f"/api/pieces/{piece['id']}/redo", json=body).json
        same(now, after)
    same(bench(client, piece), trail[-1])


def merged(before: dict[str, Any], part: dict[str, Any]) -> dict[str, Any]:
    """A value with the parts that changed, as the page puts it together."""
    (FlatPart if "left" in before else DocumentPart).model_validate(part)
    lists = {}
    for name, rows in part["rows"].items():
        known = {row["id"]: row for row in before[name]} | {row["id"]: row for row in rows["changed"]}
        order = [row["id"] for row in before[name]]
        if rows["order"] is not None:
            at, gone, come = rows["order"]
            order[at : at + gone] = come
        lists[name] = [known[key] for key in order]
    return {**before, **part["fields"], **lists}


@pytest.mark.parametrize("seed", range(6, 10))
def test_differences_lead_where_whole_answers_do(client, piece, seed):
    rng = random.Random(seed)
    held = bench(client, piece)
    document, flat = held["piece"]["document"], held["flat"]
    now = held["piece"]
    for number in range(10):
        answer = send(client, now, step(rng, flat, number), changes_only=True)
        if answer.status_code != 200:
            continue
        now = answer.json["piece"]
        document, flat = merged(document, answer.json["document"]), merged(flat, answer.json["flat"])
        whole = bench(client, piece)
        assert document == whole["piece"]["document"]
        assert flat == whole["flat"]
        if len(flat["regions"]) < 2:
            break
