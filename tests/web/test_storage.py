"""What takes how much room, and what goes when it is emptied."""

from __future__ import annotations

import io

import cv2
import numpy as np
import pytest


@pytest.fixture
def square() -> bytes:
    sheet = np.full((120, 120, 3), 255, np.uint8)
    sheet[30:90, 30:90] = 0
    return cv2.imencode(".png", sheet)[1].tobytes()


def begun(client, square: bytes) -> str:
    form = {"picture": (io.BytesIO(square), "square.png")}
    key: str = client.post("/api/pieces/from-picture", data=form).json["piece"]["id"]
    return key


def test_pieces_are_weighed_and_the_trash_is_told_apart(client, square):
    before = client.get("/api/storage").json
    key = begun(client, square)
    there = client.get("/api/storage").json
    assert there["pieces"]["count"] == before["pieces"]["count"] + 1
    assert there["pieces"]["bytes"] > before["pieces"]["bytes"]
    assert there["assets"]["bytes"] >= len(square)
    client.delete(f"/api/pieces/{key}")
    gone = client.get("/api/storage").json
    assert gone["pieces"] == before["pieces"]
    assert gone["trash"]["count"] == before["trash"]["count"] + 1
    assert gone["deleted"][0]["id"] == key
    assert gone["deleted"][0]["until"] > gone["deleted"][0]["deleted"]


def test_the_trash_is_emptied_for_good(client, square):
    key = begun(client, square)
    client.delete(f"/api/pieces/{key}")
    empty = client.post("/api/storage/empty", json={"what": "trash"}).json
    assert empty["trash"] == {"count": 0, "bytes": 0}
    assert empty["deleted"] == []
    assert client.post(f"/api/pieces/{key}/restore").status_code == 404
    assert client.get(f"/api/pieces/{key}").status_code == 404


def test_what_can_be_made_again_goes_and_is_made_again(client, square):
    key = begun(client, square)
    revision = client.get(f"/api/pieces/{key}").json["piece"]["revision"]
    picture = client.get(f"/api/pieces/{key}/picture/{revision}").data
    assert client.get("/api/storage").json["derived"]["bytes"] >= len(picture)
    assert client.post("/api/storage/empty", json={"what": "derived"}).json["derived"]["bytes"] == 0
    assert client.get(f"/api/pieces/{key}/picture/{revision}").data == picture


def test_nothing_else_can_be_emptied(client):
    assert client.post("/api/storage/empty", json={"what": "pieces"}).status_code == 422
