"""Edits that seeds of benchmarks.fuzz.edits found: what lies beyond the sheet is refused in words, and at once."""

from __future__ import annotations

import io
import time

import cv2
import numpy as np
import pytest


@pytest.fixture
def piece(client) -> dict:
    sheet = np.full((120, 160, 3), 255, np.uint8)
    sheet[30:90, 30:110] = 0
    form = {"picture": (io.BytesIO(cv2.imencode(".png", sheet)[1].tobytes()), "square.png")}
    found: dict = client.post("/api/pieces/from-picture", data=form).json["piece"]
    return found


PEN = {"id": "p1", "name": "far", "start": [0, 0], "stretches": [{"kind": "edge", "to": [-1e6, -1e6]}]}
WORDS = {"id": "w", "kind": "lettering", "text": "new", "at": [7e5, -9.9e5], "height": 7e5}


@pytest.mark.parametrize(
    "edit",
    [
        {"do": "place-picture", "place": {"mm_per_px": 12.7, "at": [1, -1e6], "turn": -146.4}},
        {"do": "set-scale", "points": [[1, 1e6], [0, 1e6]], "mm": 4670},
        {"do": "put-drawn", "things": [WORDS]},
        {"do": "set-pen", "line": PEN},
        {"do": "put-drawn", "things": [{"id": "x", "kind": "path", "path": "M999999 0L1000000 0L1000000 9Z"}]},
    ],
)
def test_what_lies_too_far_out_is_refused(client, piece, edit):
    before = client.get(f"/api/pieces/{piece['id']}").json
    for way in ("edits", "preview", "solid"):
        begin = time.monotonic()
        answer = client.post(f"/api/pieces/{piece['id']}/{way}", json={"revision": piece["revision"], "edit": edit})
        assert answer.status_code in (200, 422), answer.text
        assert time.monotonic() - begin < 30
        if answer.status_code == 422:
            assert answer.json["detail"].endswith((".", "!"))
            assert client.get(f"/api/pieces/{piece['id']}").json == before
        else:
            break


def test_a_stretch_between_one_place_and_itself_is_refused(client, piece):
    line = {"id": "l", "kind": "path", "path": "M0 0L30 0L30 20"}
    edit = {"do": "put-drawn", "things": [line]}
    after = client.post(f"/api/pieces/{piece['id']}/edits", json={"revision": piece["revision"], "edit": edit}).json
    edit = {"do": "stretch", "id": "l", "start": [1, -2e5], "end": [1, 0], "how": "arc"}
    body = {"revision": after["piece"]["revision"], "edit": edit}
    answer = client.post(f"/api/pieces/{piece['id']}/edits", json=body)
    assert answer.status_code == 422
    assert "same" in answer.json["detail"]
