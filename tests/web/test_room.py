"""The disk fills up: it is said early; then nothing is written, but all can be looked at, exported and deleted."""

from __future__ import annotations

import io
from dataclasses import replace

import pytest

from drelo.store.space import LITTLE, NEEDY, NONE, RESERVE, Space
from drelo.web.app import create_app

GB = 2**30


class Disk:
    """A stand-in for the free space of a disk."""

    def __init__(self) -> None:
        self.free = 50 * GB


@pytest.fixture
def disk() -> Disk:
    return Disk()


@pytest.fixture
def client(bench, disk, tmp_path):
    return create_app(replace(bench, space=Space(tmp_path, lambda _: disk.free))).test_client()


@pytest.fixture
def piece(client, ring_png) -> dict:
    return client.post("/api/pieces/from-picture", data={"picture": (io.BytesIO(ring_png), "ring.png")}).json["piece"]


def test_little_room_is_told_and_nothing_is_refused(client, disk, piece):
    assert client.get("/api/ready").json["room"] == "plenty"
    disk.free = LITTLE - 1
    assert client.get("/api/ready").json["room"] == "little"
    assert client.patch(f"/api/pieces/{piece['id']}", json={"name": "Still"}).status_code == 200


def test_without_room_changes_are_refused_and_all_else_works(client, disk, piece):
    disk.free = NONE - 1
    address = f"/api/pieces/{piece['id']}"
    edit = {"revision": piece["revision"], "edit": {"do": "set-base", "shape": "rectangle"}}
    for answer in (
        client.patch(address, json={"name": "Never"}),
        client.post(f"{address}/edits", json=edit),
        client.post("/api/pieces", json={}),
        client.post(f"{address}/duplicate"),
    ):
        assert answer.status_code == 507
        assert "disk is full" in answer.json["detail"]
    opened = client.get(address)
    assert opened.json["piece"]["name"] == piece["name"]
    assert opened.json["piece"]["revision"] == piece["revision"]
    assert client.get("/api/pieces").status_code == 200
    exported = client.post(f"{address}/take-away", json={"revision": piece["revision"], "kind": "stl"})
    assert exported.status_code == 200
    assert client.delete(address).status_code in (200, 204)
    disk.free = 50 * GB
    assert client.post(f"{address}/restore").status_code == 200
    assert client.post(f"{address}/edits", json=edit).status_code == 200


def test_a_reserve_is_kept_and_given_up_for_the_database(disk, tmp_path):
    space = Space(tmp_path, lambda _: disk.free)
    space.keep_reserve()
    assert (tmp_path / "reserve").stat().st_size == RESERVE
    disk.free = NEEDY + 1
    space.keep_reserve()
    assert (tmp_path / "reserve").exists()
    disk.free = NEEDY - 1
    space.keep_reserve()
    assert not (tmp_path / "reserve").exists()
    disk.free = LITTLE
    space.keep_reserve()
    assert not (tmp_path / "reserve").exists()


def test_where_nothing_is_known_there_is_plenty(tmp_path):
    assert Space().room() == "plenty"
    assert Space(tmp_path / "not there").room() == "plenty"
    assert Space(tmp_path).free() > 0
