"""Rehearsals over the wire: of the bytes that leave, kept, and honest about what they cannot do."""

from __future__ import annotations

import io
import threading
import time

import cv2
import numpy as np
import pytest
from sqlalchemy import delete

from drelo.application.rehearsals import pattern_key
from drelo.store.models import Derived
from drelo.web.app import create_app


@pytest.fixture
def bars(client) -> dict:
    sheet = np.full((240, 320, 3), 255, np.uint8)
    sheet[40:200, 40:110] = 0
    sheet[40:120, 180:280] = 0
    form = {"picture": (io.BytesIO(cv2.imencode(".png", sheet)[1].tobytes()), "bars.png")}
    found: dict = client.post("/api/pieces/from-picture", data=form).json["piece"]
    return found


def rehearsed(client, piece: dict, **more):
    return client.post(f"/api/pieces/{piece['id']}/rehearsal", json={"revision": piece["revision"], **more})


def printed(client, piece: dict, **how) -> dict:
    body = {"revision": piece["revision"], "edit": {"do": "set-printing", **how}}
    after: dict = client.post(f"/api/pieces/{piece['id']}/edits", json=body).json["piece"]
    return after


def test_a_piece_is_rehearsed_and_its_lines_are_there(client, bars):
    answer = rehearsed(client, bars)
    assert answer.status_code == 200, answer.text
    report = answer.json["report"]
    assert len(report["layers"]) == 16
    assert report["layers"][-1]["top"] == pytest.approx(3.2)
    assert [c["layer"] for c in report["changes"]] == [11]
    assert "load Cream PLA" in report["changes"][0]["words"]
    assert report["seconds"] > 600
    first = client.get(
        f"/api/rehearsals/{answer.json['key']}/patterns/{report['layers'][0]['parts'][0]['pattern']}"
    ).json
    assert len(first["lines"]) > 20
    points = np.array(first["lines"][0][2]).reshape(-1, 2) * first["step"]
    assert points.min() > -0.01
    assert points.max() < max(report["size"])


def test_two_windows_of_a_piece_both_get_its_rehearsal(bench, client, bars):
    bars = printed(client, bars, copies=3)
    answers: dict[str, int] = {}

    def ask(window: str) -> None:
        where, body = f"/api/pieces/{bars['id']}/rehearsal", {"revision": bars["revision"]}
        answer = create_app(bench).test_client().post(where, json=body, headers={"Drelo-Window": window})
        answers[window] = answer.status_code

    threads = [threading.Thread(target=ask, args=(window,)) for window in ("a", "b")]
    threads[0].start()
    until = time.monotonic() + 10
    while not bench.pool.state().running and time.monotonic() < until:
        time.sleep(0.01)
    threads[1].start()
    for thread in threads:
        thread.join(60)
    assert answers == {"a": 200, "b": 200}


def test_the_lowest_layers_and_how_far_it_is_are_told_while_it_goes_on(client, bars):
    # Such a rehearsal no other test has had made.
    bars = printed(client, bars, copies=7)
    where = f"/api/pieces/{bars['id']}/rehearsal?revision={bars['revision']}"
    before = client.get(where).json
    assert (before["share"], before["first"]) == (None, None)
    whole = rehearsed(client, bars).json
    after = client.get(where).json
    assert after["printer"] == whole["printer"]
    low = client.get(f"/api/rehearsals/{after['first']}").json
    assert len(low["layers"]) == 2
    assert low["beds"][0]["places"] == whole["report"]["beds"][0]["places"]
    for layer, same in zip(low["layers"], whole["report"]["layers"], strict=False):
        for part, of_whole in zip(layer["parts"], same["parts"], strict=True):
            mine = client.get(f"/api/rehearsals/{after['first']}/patterns/{part['pattern']}")
            other = client.get(f"/api/rehearsals/{whole['key']}/patterns/{of_whole['pattern']}")
            assert mine.data == other.data


def test_copies_and_the_way_of_printing_are_the_pieces(client, bars):
    one = rehearsed(client, bars).json["report"]
    edit = {"do": "set-printing", "printer": "tall-round", "manner": {"infill": 1, "walls": 3}, "copies": 4}
    bars = client.post(f"/api/pieces/{bars['id']}/edits", json={"revision": bars["revision"], "edit": edit}).json[
        "piece"
    ]
    answer = rehearsed(client, bars).json
    assert (answer["printer"]["id"], answer["manner"]["walls"], len(answer["report"]["beds"][0]["places"])) == (
        "tall-round",
        3,
        4,
    )
    assert answer["report"]["grams"] > 4 * one["grams"]
    edit = {"do": "set-printing", "copies": 2}
    bars = client.post(f"/api/pieces/{bars['id']}/edits", json={"revision": bars["revision"], "edit": edit}).json[
        "piece"
    ]
    assert bars["document"]["printing"]["manner"]["walls"] == 3


def test_it_is_kept_by_what_it_follows_from(client, bars):
    once = rehearsed(client, bars).json
    assert rehearsed(client, bars).json["key"] == once["key"]
    assert rehearsed(client, bars, copies=2).json["key"] != once["key"]
    assert client.get(f"/api/rehearsals/{'0' * 64}/patterns/0").status_code == 404


def test_lines_that_were_taken_away_are_made_again(client, bars, bench):
    once = rehearsed(client, bars).json
    lost = pattern_key(once["key"], 1)
    with bench.derived._sessions.begin() as session:
        session.execute(delete(Derived).where(Derived.key == lost))
    assert client.get(f"/api/rehearsals/{once['key']}/patterns/1").status_code == 404
    assert rehearsed(client, bars).json == once
    assert client.get(f"/api/rehearsals/{once['key']}/patterns/1").status_code == 200


def test_a_piece_that_cannot_be_printed_says_why(client, bars):
    empty = client.post("/api/pieces", json={"name": "Empty"}).json
    answer = rehearsed(client, empty)
    assert answer.status_code == 422
    assert answer.json["detail"]


def test_printers_are_added_changed_and_removed(client):
    before = client.get("/api/printers").json
    assert [p["id"] for p in before["printers"]] == ["plain", "tall-round"]
    assert set(before["presets"]) == {"light", "sturdy", "solid"}
    new = {**before["printers"][0], "name": "Small one", "width": 120, "depth": 120}
    after = client.put("/api/printers/small", json=new).json["printers"]
    assert after[-1]["id"] == "small"
    assert after[-1]["width"] == 120
    assert len(client.delete("/api/printers/small").json["printers"]) == 2


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"width": 0}, "width"),
        ({"nozzle": 9}, "nozzle"),
        ({"speeds": {"travel": -3}}, "speeds.travel"),
        ({"change": {"how": "changer", "slots": 0}}, "slots"),
        ({"thinnest_layer": 0.3, "thickest_layer": 0.1}, "thinnest_layer"),
        ({"wings": 2}, "wings"),
    ],
)
def test_nonsense_is_refused_by_its_field(client, change, field):
    answer = client.put("/api/printers/odd", json={"id": "odd", "name": "Odd", **change})
    assert answer.status_code == 422
    assert field in answer.json["field"]


def test_the_last_printer_stays(client):
    printers = client.get("/api/printers").json["printers"]
    for printer in printers[1:]:
        client.delete(f"/api/printers/{printer['id']}")
    answer = client.delete(f"/api/printers/{printers[0]['id']}")
    assert answer.status_code == 422
    for printer in printers[1:]:
        client.put(f"/api/printers/{printer['id']}", json=printer)
