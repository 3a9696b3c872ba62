"""Limits of a person: pieces, bytes, jobs at once, minutes of computing."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import replace

import pytest
from sqlalchemy import text

from drelo.application import metering
from drelo.application.bench import Bench
from drelo.application.metering import Metered
from drelo.core.errors import Busy, Refusal
from drelo.core.people.limits import Limits
from drelo.store.author import author
from drelo.web.app import create_app
from drelo.web.people.workshop import Workshop
from tests.refusals import refused
from tests.web.people.conftest import Browser
from tests.work.jobs import crunch, sleep


@pytest.fixture
def limited(bench: Bench, workshop, maker) -> Callable[..., Browser]:
    """Somebody signed in at a workshop with these limits, and nothing used yet."""
    with maker.begin() as session:
        session.execute(text("update asset set owner = null"))

    def signed_in(name: str = "mira", **limits: int) -> Browser:
        most = replace(Limits(), **limits)
        metered = replace(bench, pool=Metered(bench.pool, bench.consumption, most))
        app = create_app(metered, shared=Workshop(b"secret of the tests", guesses=False, limits=most))
        browser = Browser(app.test_client())
        assert browser.sign_in(name).status_code == 200
        return browser

    return signed_in


def test_pieces_are_limited_and_what_is_there_can_still_be_worked_on(limited, piece_of):
    mira = limited(pieces=2)
    first = piece_of(mira)
    second = mira.post(f"/api/pieces/{first['id']}/duplicate").json
    for address in ("/api/pieces", f"/api/pieces/{first['id']}/duplicate"):
        refused = mira.post(address, json={"name": "one more"})
        assert refused.status_code == 422
        assert "room for 2" in refused.json["detail"]
    assert mira.get(f"/api/pieces/{first['id']}").status_code == 200
    assert mira.ask("DELETE", f"/api/pieces/{second['id']}").status_code == 204
    assert mira.post(f"/api/pieces/{first['id']}/duplicate").status_code == 200


def test_bytes_are_limited(limited, piece_of, maker):
    mira = limited(megabytes=1)
    piece = piece_of(mira)
    with maker.begin() as session:
        mine = "select id from account where name = 'mira'"
        session.execute(
            text(
                "insert into asset (sha256, media_type, data, owner, created) "
                f"values (repeat('0', 64), 'image/png', repeat('x', 1000000), ({mine}), now(6))"
            )
        )
    try:
        refused = mira.post(f"/api/pieces/{piece['id']}/duplicate")
        assert refused.status_code == 422
        assert "ask a keeper" in refused.json["detail"]
        assert mira.get("/api/me/usage").json["megabytes"] > 1
        assert mira.get(f"/api/pieces/{piece['id']}").status_code == 200
    finally:
        with maker.begin() as session:
            session.execute(text("delete from asset where sha256 = repeat('0', 64)"))


def test_who_uses_what_is_seen_by_keepers_and_by_oneself_alone(limited, piece_of):
    mira, kay = limited("mira"), limited("kay")
    piece_of(mira)
    own = mira.get("/api/me/usage").json
    assert own["pieces"] == 1
    assert own["megabytes"] > 0
    seen = {p["name"]: p["usage"] for p in kay.get("/api/people").json["people"]}
    assert seen["mira"]["pieces"] == 1
    assert seen["milo"]["pieces"] == 0
    assert mira.get("/api/people").status_code == 403


def test_a_keeper_gives_one_person_other_limits(limited, piece_of, bench):
    kay, mira, milo = limited("kay", pieces=1), limited("mira", pieces=1), limited("milo", pieces=1)
    account = bench.accounts.secrets("mira").person.id
    piece = piece_of(mira)
    assert mira.post(f"/api/pieces/{piece['id']}/duplicate").status_code == 422
    told = kay.ask("PATCH", f"/api/people/{account}", json={"limits": {"pieces": 3}})
    assert told.status_code == 200
    row = next(p for p in told.json["people"] if p["name"] == "mira")
    assert (row["own"]["pieces"], row["own"]["minutes"]) == (3, None)
    assert row["usage"]["limits"]["pieces"] == 3
    assert mira.post(f"/api/pieces/{piece['id']}/duplicate").status_code == 200
    piece_of(milo)
    assert milo.post("/api/pieces", json={}).status_code == 422
    assert mira.ask("PATCH", f"/api/people/{account}", json={"limits": {"pieces": 9}}).status_code == 403
    kay.ask("PATCH", f"/api/people/{account}", json={"limits": {}})
    assert mira.get("/api/me/usage").json["limits"]["pieces"] == 1
    assert "set limits" in str(kay.get("/api/record").json)


class TestComputing:
    @pytest.fixture
    def account(self, bench: Bench, workshop) -> str:
        return bench.accounts.secrets("mira").person.id

    @pytest.fixture
    def metered(self, bench: Bench, account: str) -> Callable[..., Metered]:
        def of(**limits: int) -> Metered:
            return Metered(bench.pool, bench.consumption, replace(Limits(), **limits))

        return of

    def run(self, account: str | None, *words, **more) -> object:
        token = author.set(account)
        try:
            return words[0].run(*words[1:], **more)
        finally:
            author.reset(token)

    def test_what_is_computed_is_counted_for_who_asks_and_kept(self, metered, account, bench):
        workers = metered()
        assert self.run(account, workers, "piece", crunch, 0.4) == "done"
        assert self.run(None, workers, "piece", crunch, 0.4) == "done"
        workers.write()
        used = bench.consumption.used(metering.datetime.now(metering.UTC).date(), account)[account]
        assert 0.2 < used.seconds < 1.2

    def test_when_the_minutes_are_used_up_no_more_is_computed_but_for_others(self, metered, account, bench):
        workers = metered(minutes=1)
        bench.consumption.spend(metering.datetime.now(metering.UTC).date(), {account: 61.0})
        with refused("1 min of computing"):
            self.run(account, workers, "piece", sleep, 0.0)
        other = bench.accounts.secrets("milo").person.id
        assert self.run(other, workers, "piece", sleep, 0.0) == "done"
        bench.consumption.set_limits(account, {"minutes": 2})
        workers.forget(account)
        assert self.run(account, workers, "piece", sleep, 0.0) == "done"

    def test_jobs_of_one_person_wait_for_each_other_not_for_those_of_others(self, metered, account, bench):
        workers = metered(jobs=1)
        other = bench.accounts.secrets("milo").person.id
        first = threading.Thread(target=self.run, args=(account, workers, "a", sleep, 4.0))
        first.start()
        time.sleep(0.3)
        begin = time.monotonic()
        assert self.run(other, workers, "b", sleep, 0.0) == "done"
        assert time.monotonic() - begin < 3
        assert self.run(account, workers, "c", sleep, 0.0) == "done"
        assert time.monotonic() - begin > 0.4
        first.join()

    def test_who_waits_for_too_long_is_told_to_ask_again(self, metered, account, monkeypatch):
        monkeypatch.setattr(metering, "PATIENCE", 0.2)
        workers = metered(jobs=1)
        first = threading.Thread(target=self.run, args=(account, workers, "a", sleep, 1.0))
        first.start()
        time.sleep(0.3)
        with pytest.raises(Busy):
            self.run(account, workers, "b", sleep, 0.0)
        first.join()
        assert self.run(account, workers, "b", sleep, 0.0) == "done"

    def test_what_fails_is_counted_too(self, metered, account, bench):
        workers = metered()
        with pytest.raises(Refusal):
            self.run(account, workers, "late", sleep, 60.0, seconds=0.5)
        workers.write()
        day = metering.datetime.now(metering.UTC).date()
        assert bench.consumption.seconds(account, day) > 0.4
