"""What an answer says is what became of the change: sent twice, undone, or made while somebody else was quicker."""

from __future__ import annotations

import io
from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np
import pytest
from sqlalchemy import func, select

from drelo.application import intake
from drelo.application.bench import Bench
from drelo.core.errors import Refusal
from drelo.store.models import Asset


@pytest.fixture
def piece(client) -> dict:
    return client.post("/api/pieces", json={"name": "Truth"}).json


def thick(client, piece: dict, mm: float, revision: int | None = None, key: str | None = None):
    edit = {"do": "set-base", "thickness": mm}
    return client.post(
        f"/api/pieces/{piece['id']}/edits",
        json={"revision": revision or piece["revision"], "edit": edit, "changes_only": True},
        headers={"Idempotency-Key": key} if key else {},
    )


def stands(client, piece: dict) -> dict:
    return client.get(f"/api/pieces/{piece['id']}").json["piece"]


def test_an_edit_sent_again_is_made_once(client, piece):
    first = thick(client, piece, 3, key="one")
    again = thick(client, piece, 3, key="one")
    assert first.status_code == again.status_code == 200
    assert again.json["piece"]["revision"] == first.json["piece"]["revision"] == stands(client, piece)["revision"]


def test_it_is_known_again_after_others(client, piece):
    first = thick(client, piece, 3, key="one").json["piece"]
    second = thick(client, first, 4, key="two").json["piece"]
    again = thick(client, piece, 3, key="one")
    assert again.status_code == 200
    assert again.json["piece"]["revision"] == second["revision"]
    assert again.json["piece"]["document"]["base"]["thickness"] == 4


def test_another_edit_on_an_old_revision_is_a_conflict_and_says_so(client, piece):
    thick(client, piece, 3, key="one")
    late = thick(client, piece, 5, key="two")
    assert late.status_code == 409
    assert "your own change was not kept" in late.json["detail"]
    assert late.json["bench"]["piece"]["document"]["base"]["thickness"] == 3


def test_the_same_key_at_once_makes_one_revision(client, piece):
    def send(_: int) -> int:
        return thick(client.application.test_client(), piece, 3, key="both").json["piece"]["revision"]

    with ThreadPoolExecutor(4) as many:
        revisions = set(many.map(send, range(4)))
    assert revisions == {stands(client, piece)["revision"]}


def test_undo_sent_again_goes_back_once(client, piece):
    second = thick(client, piece, 3).json["piece"]
    third = thick(client, second, 4).json["piece"]
    for _ in range(2):
        answer = client.post(
            f"/api/pieces/{piece['id']}/undo",
            json={"revision": third["revision"], "changes_only": True},
            headers={"Idempotency-Key": "back"},
        )
        assert answer.status_code == 200
        assert answer.json["piece"]["revision"] == second["revision"]


@pytest.mark.parametrize("way", ["undo", "redo"])
def test_a_step_that_cannot_be_shown_is_not_taken(client, piece, way, monkeypatch):
    thick(client, piece, 3)
    if way == "redo":
        here = stands(client, piece)
        client.post(f"/api/pieces/{piece['id']}/undo", json={"revision": here["revision"]})
    here = stands(client, piece)

    def refuse(*_: object) -> None:
        raise Refusal("rehearsal.empty")

    monkeypatch.setattr(Bench, "flat", refuse)
    answer = client.post(f"/api/pieces/{piece['id']}/{way}", json={"revision": here["revision"]})
    monkeypatch.undo()
    assert answer.status_code == 422
    assert stands(client, piece) == here


def test_a_key_of_any_length_is_not_taken(client, piece):
    assert thick(client, piece, 3, key="x" * 65).status_code == 422
    assert stands(client, piece)["revision"] == piece["revision"]


def test_a_picture_that_lost_the_race_is_not_kept(client, piece, maker, monkeypatch):
    seed = int(np.random.default_rng().integers(1 << 31))
    shade = np.random.default_rng(seed).integers(0, 60)
    sheet = np.full((80, 80, 3), 255, np.uint8)
    sheet[20:60, 20:60] = (shade, seed % 50, 0)
    data = cv2.imencode(".png", sheet)[1].tobytes()
    trace = intake.take_picture

    def slowly(*args: object) -> object:
        taken = trace(*args)
        thick(client.application.test_client(), piece, 7)
        return taken

    monkeypatch.setattr("drelo.web.edits.intake.take_picture", slowly)
    count = select(func.count()).select_from(Asset)
    with maker() as session:
        before = session.scalar(count)
    form = {"picture": (io.BytesIO(data), "late.png"), "revision": str(piece["revision"])}
    assert client.post(f"/api/pieces/{piece['id']}/picture", data=form).status_code == 409
    with maker() as session:
        assert session.scalar(count) == before
