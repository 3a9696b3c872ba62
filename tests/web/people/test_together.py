"""Several hands on one piece: who else is there, and what becomes of changes that were made at the same time."""

from __future__ import annotations

import json
import time

import pytest

from drelo.web.people import listening, sharing


@pytest.fixture
def two(signed_in, piece_of):
    """A piece that two people edit."""
    owner, other = signed_in("mira"), signed_in("milo")
    piece = piece_of(owner)
    owner.ask("PUT", f"/api/pieces/{piece['id']}/sharing", json={"openness": "edited"})
    return owner, other, piece


def edit(browser, piece: dict, revision: int, **change):
    body = {"revision": revision, "edit": change}
    return browser.post(f"/api/pieces/{piece['id']}/edits", json=body)


def test_who_else_has_a_piece_open_is_told(two):
    owner, other, piece = two
    at = f"/api/pieces/{piece['id']}/here"
    assert owner.post(at).json["others"] == []
    assert other.post(at).json["others"] == ["Mira"]
    assert owner.post(at).json["others"] == ["Milo"]


def test_a_change_is_heard_of_with_whose_it_is(two):
    owner, other, piece = two
    made = edit(other, piece, piece["revision"], do="set-base", thickness=3).json
    here = owner.post(f"/api/pieces/{piece['id']}/here").json
    assert (here["revision"], here["by"]) == (made["piece"]["revision"], "Milo")
    lines = owner.get(f"/api/pieces/{piece['id']}/versions").json["lines"]
    assert [line["steps"][0]["by"] for line in lines] == ["Milo", "Mira"]


def test_changes_that_do_not_meet_are_brought_together(two):
    owner, other, piece = two
    edit(other, piece, piece["revision"], do="set-base", thickness=3)
    late = edit(owner, piece, piece["revision"], do="set-base", margin=7)
    assert late.status_code == 200
    assert late.json["together"]
    base = late.json["piece"]["document"]["base"]
    assert (base["thickness"], base["margin"]) == (3, 7)


def test_changes_that_meet_are_asked_about_with_what_the_other_made(two):
    owner, other, piece = two
    edit(other, piece, piece["revision"], do="set-base", thickness=3, margin=7)
    late = edit(owner, piece, piece["revision"], do="set-base", thickness=4)
    assert late.status_code == 409
    [told] = late.json["collision"]
    assert (told["what"], told["before"], told["after"]) == ("Base thickness", 2, 3)
    [mine] = late.json["mine"]
    assert (mine["what"], mine["before"], mine["after"]) == ("Base thickness", 2, 4)
    assert late.json["by"] == "Milo"
    assert late.json["bench"]["piece"]["document"]["base"]["thickness"] == 3


def test_a_change_that_was_made_already_is_not_made_again_on_what_another_made(two):
    owner, other, piece = two
    headers = {"Idempotency-Key": "once-and-no-more", "X-CSRFToken": owner.token}
    body = {"revision": piece["revision"], "edit": {"do": "set-base", "thickness": 3}}
    address = f"/api/pieces/{piece['id']}/edits"
    first = owner.client.post(address, json=body, headers=headers).json
    edit(other, piece, first["piece"]["revision"], do="set-base", thickness=5)
    again = owner.client.post(address, json=body, headers=headers)
    assert again.status_code == 200
    assert again.json["piece"]["document"]["base"]["thickness"] == 5


def heard(stream, number: int) -> list[dict]:
    """So many events of a stream; what is only a sign of life does not count."""
    found: list[dict] = []
    for chunk in stream:
        text = chunk.decode() if isinstance(chunk, bytes) else chunk
        if text.startswith("data: "):
            found.append(json.loads(text.removeprefix("data: ")))
        if len(found) == number:
            return found
    return found


class TestEvents:
    def listen(self, browser, piece: dict):
        answer = browser.get(f"/api/pieces/{piece['id']}/events")
        assert answer.content_type.startswith("text/event-stream")
        return iter(answer.response)

    def test_changes_and_comings_are_heard_of_at_once(self, two):
        owner, other, piece = two
        stream = self.listen(owner, piece)
        (first,) = heard(stream, 1)
        assert (first["others"], first["revision"]) == ([], piece["revision"])
        made = edit(other, piece, piece["revision"], do="set-base", thickness=3).json
        begin = time.monotonic()
        (second,) = heard(stream, 1)
        assert (second["revision"], second["by"]) == (made["piece"]["revision"], "Milo")
        assert time.monotonic() - begin < 5
        theirs = self.listen(other, piece)
        assert heard(theirs, 1)[0]["others"] == ["Mira"]
        assert heard(stream, 1)[0]["others"] == ["Milo"]
        stream.close()
        theirs.close()

    @pytest.mark.parametrize("why", ["signed out", "shared no more", "deleted"])
    def test_they_end_when_one_may_no_longer_look(self, two, monkeypatch, why):
        owner, other, piece = two
        monkeypatch.setattr(listening, "BEAT", 0.3)
        stream = self.listen(other, piece)
        assert len(heard(stream, 1)) == 1
        if why == "signed out":
            other.post("/api/sign-out")
        elif why == "shared no more":
            owner.ask("PUT", f"/api/pieces/{piece['id']}/sharing", json={"openness": "private"})
        else:
            owner.ask("DELETE", f"/api/pieces/{piece['id']}")
        begin = time.monotonic()
        heard(stream, 99)
        assert time.monotonic() - begin < 20

    def test_where_too_many_listen_one_is_told_to_ask(self, two, monkeypatch, bench):
        owner, _, piece = two
        monkeypatch.setattr(sharing, "MOST_LISTENING", len(bench.watching))
        refused = owner.get(f"/api/pieces/{piece['id']}/events")
        assert refused.status_code == 503
        assert owner.post(f"/api/pieces/{piece['id']}/here").status_code == 200

    def test_nobody_asks_where_nobody_listens(self, two, bench):
        owner, _, piece = two
        stream = self.listen(owner, piece)
        heard(stream, 1)
        assert len(bench.watching) > 0
        stream.close()
        until = time.monotonic() + 5
        while bench.watching._thread is not None and time.monotonic() < until:
            time.sleep(0.05)
        assert len(bench.watching) == 0
        assert bench.watching._thread is None
