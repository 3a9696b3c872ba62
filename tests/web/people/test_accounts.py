"""Signing in, invitations, passwords, second factors, browsers, and the record of it all."""

from __future__ import annotations

from datetime import timedelta

import pyotp
import pytest
from sqlalchemy import update

from drelo.application import people
from drelo.store.accounts import IDLE, INVITED, LONGEST
from drelo.store.models import Invitation, SignIn, now
from drelo.web.app import create_app
from drelo.web.people.workshop import Workshop
from tests.web.people.conftest import PASSWORD, Browser

OTHER = "quartz lantern beetroot"


def test_a_maker_alone_meets_none_of_it(client):
    assert client.get("/api/me").json == {"shared": False, "person": None, "token": ""}
    assert client.get("/api/pieces").status_code == 200


def test_who_signs_in_is_told_and_signs_out(workshop):
    browser = workshop()
    assert browser.get("/api/pieces").json["type"] == "/problems/sign-in"
    me = browser.sign_in("mira").json["me"]
    assert (me["shared"], me["person"]["title"], me["person"]["role"]) == (True, "Mira", "maker")
    assert browser.get("/api/pieces").status_code == 200
    assert browser.post("/api/sign-out").status_code == 204
    assert browser.get("/api/pieces").status_code == 401


def test_the_name_may_be_typed_as_one_likes(workshop):
    assert workshop().sign_in("  Mira ").status_code == 200


def test_wrong_names_and_wrong_passwords_are_answered_alike(workshop):
    browser = workshop()
    wrong, nobody = browser.sign_in("mira", "wrong"), browser.sign_in("nobody", PASSWORD)
    assert (wrong.status_code, wrong.json) == (nobody.status_code, nobody.json)
    assert wrong.status_code == 401


def test_a_wrong_name_is_looked_into_as_long_as_a_wrong_password(workshop, monkeypatch):
    """Else the time of an answer would tell which names there are."""
    looked, matches = [], people._matches
    monkeypatch.setattr(people, "_matches", lambda *a: looked.append(a[0]) or matches(*a))
    for name in ("mira", "nobody"):
        assert workshop().sign_in(name, "wrong").status_code == 401
    assert len(looked) == 2
    assert all(stored.startswith("$argon2id$") for stored in looked)


def test_guessing_is_slowed_down(bench, workshop):
    del workshop
    browser = Browser(create_app(bench, shared=Workshop(b"another secret")).test_client())
    answers = [browser.sign_in("mira", "wrong").status_code for _ in range(20)]
    assert answers[:10] == [401] * 10
    assert answers[-1] == 429
    # For this name only; others still get in.
    assert browser.sign_in("mira").status_code == 429
    assert browser.sign_in("milo").status_code == 200


def test_a_class_that_signs_in_from_one_address_is_not_slowed_down(bench, workshop):
    del workshop
    app = create_app(bench, shared=Workshop(b"another secret"))
    for _ in range(35):
        for name in ("mira", "milo"):
            assert Browser(app.test_client()).sign_in(name).status_code == 200


def test_the_cookie_is_out_of_reach_of_scripts_and_of_other_sites(bench, workshop):
    del workshop
    app = create_app(bench, shared=Workshop(b"another secret", secure=True, guesses=False))
    client = app.test_client()
    token = client.get("/api/me", base_url="https://localhost").json["token"]
    answer = client.post(
        "/api/sign-in",
        json={"name": "mira", "password": PASSWORD},
        headers={"X-CSRFToken": token},
        base_url="https://localhost",
    )
    cookie = next(c for c in answer.headers.getlist("Set-Cookie") if c.startswith("drelo="))
    assert "HttpOnly" in cookie
    assert "Secure" in cookie
    assert "SameSite=Lax" in cookie


def test_a_cookie_that_was_there_before_is_worth_nothing_after_signing_in(workshop):
    browser = workshop()
    before = browser.client.get_cookie("drelo").value
    browser.sign_in("mira")
    assert browser.client.get_cookie("drelo").value != before


@pytest.mark.parametrize(("column", "age"), [("seen", IDLE), ("begun", LONGEST)])
def test_sign_ins_end_by_themselves(signed_in, maker, column, age):
    browser = signed_in("mira")
    with maker.begin() as session:
        session.execute(update(SignIn).values({column: now() - age - timedelta(minutes=1)}))
    assert browser.get("/api/pieces").status_code == 401


def test_browsers_are_listed_and_ended(signed_in):
    one, two = signed_in("mira"), signed_in("mira")
    other = signed_in("milo")
    listed = one.get("/api/me/browsers").json["browsers"]
    assert [b["here"] for b in listed].count(True) == 1
    assert len(listed) == 2
    away = next(b["id"] for b in listed if not b["here"])
    # Nobody ends somebody else's.
    other.ask("DELETE", f"/api/me/browsers/{away}")
    assert two.get("/api/pieces").status_code == 200
    one.ask("DELETE", f"/api/me/browsers/{away}")
    assert two.get("/api/pieces").status_code == 401
    assert one.get("/api/pieces").status_code == 200


def test_a_new_password_signs_all_other_browsers_out(signed_in, workshop):
    one, two = signed_in("mira"), signed_in("mira")
    assert one.ask("PUT", "/api/me/password", json={"old": "wrong", "new": OTHER}).status_code == 422
    assert one.ask("PUT", "/api/me/password", json={"old": PASSWORD, "new": "short"}).json["field"] == "password"
    assert one.ask("PUT", "/api/me/password", json={"old": PASSWORD, "new": OTHER}).status_code == 204
    assert one.get("/api/pieces").status_code == 200
    assert two.get("/api/pieces").status_code == 401
    assert workshop().sign_in("mira", PASSWORD).status_code == 401
    assert workshop().sign_in("mira", OTHER).status_code == 200


@pytest.mark.parametrize(
    "weak",
    ["", "short", "aaaaaaaaaaaaaa", "abcabcabcabcabc", "123456789012", "Password1234!", "mira-mira-2026!", "x" * 129],
)
def test_weak_passwords_are_refused(weak):
    from drelo.core.errors import Refusal
    from drelo.core.people.passwords import checked_password

    with pytest.raises(Refusal):
        checked_password(weak, "mira")


def test_an_invitation_works_once_for_a_week(signed_in, workshop, maker):
    keeper = signed_in("kay")
    made = keeper.post("/api/people/invitations", json={"role": "maker", "title": "Nell"}).json
    fresh = workshop()
    at = f"/api/invitations/{made['token']}"
    assert fresh.get(at).json["role"] == "maker"
    body = {"name": "nell", "title": "Nell", "password": OTHER}
    assert fresh.post(at, json={**body, "name": "mira"}).json["field"] == "name"
    assert fresh.post(at, json={**body, "password": "short"}).json["field"] == "password"
    joined = fresh.post(at, json=body)
    assert joined.json["person"]["role"] == "maker"
    assert fresh.get("/api/pieces").status_code == 200
    assert workshop().get(at).status_code == 404
    assert workshop().post(at, json={**body, "name": "nelly"}).status_code == 422
    late = keeper.post("/api/people/invitations", json={"role": "guest", "title": "Ola"}).json["token"]
    with maker.begin() as session:
        session.execute(update(Invitation).values(ends=now() - timedelta(seconds=1)))
    assert timedelta(days=7) == INVITED
    assert workshop().get(f"/api/invitations/{late}").status_code == 404


def test_an_invitation_is_withdrawn(signed_in, workshop):
    keeper = signed_in("kay")
    token = keeper.post("/api/people/invitations", json={"role": "maker", "title": "Nell"}).json["token"]
    listed = keeper.get("/api/people").json["invitations"]
    assert [i["title"] for i in listed] == ["Nell"]
    assert token not in str(listed)
    assert keeper.ask("DELETE", f"/api/people/invitations/{listed[0]['id']}").json["invitations"] == []
    assert workshop().get(f"/api/invitations/{token}").status_code == 404


def test_a_keeper_makes_a_link_for_a_forgotten_password(signed_in, workshop, bench):
    keeper, there = signed_in("kay"), signed_in("mira")
    second_factor(there)
    ids = {p.name: p.id for p in bench.accounts.all()}
    token = keeper.post(f"/api/people/{ids['mira']}/password-link").json["token"]
    fresh = workshop()
    assert fresh.get(f"/api/invitations/{token}").json["name"] == "mira"
    # It makes no account, and no weak password.
    body = {"name": "other", "title": "Other", "password": OTHER}
    assert fresh.post(f"/api/invitations/{token}", json=body).status_code == 422
    at = f"/api/invitations/{token}/password"
    assert fresh.ask("PUT", at, json={"password": "short"}).json["field"] == "password"
    assert fresh.ask("PUT", at, json={"password": OTHER}).json["person"]["name"] == "mira"
    assert there.get("/api/pieces").status_code == 401
    assert workshop().ask("PUT", at, json={"password": PASSWORD}).status_code == 404
    assert workshop().sign_in("mira", OTHER).json["me"]
    invited = keeper.post("/api/people/invitations", json={"role": "maker", "title": "Nell"}).json["token"]
    assert workshop().ask("PUT", f"/api/invitations/{invited}/password", json={"password": OTHER}).status_code == 404
    assert keeper.post("/api/people/nobody/password-link").status_code == 404


def test_who_is_shut_out_is_out_at_once_and_somebody_always_keeps_the_workshop(signed_in, workshop, bench):
    keeper, maker = signed_in("kay"), signed_in("mira")
    ids = {p.name: p.id for p in bench.accounts.all()}
    keeper.ask("PATCH", f"/api/people/{ids['mira']}", json={"closed": True})
    assert maker.get("/api/pieces").status_code == 401
    assert workshop().sign_in("mira").status_code == 401
    keeper.ask("PATCH", f"/api/people/{ids['mira']}", json={"closed": False})
    assert workshop().sign_in("mira").status_code == 200
    for change in ({"role": "maker"}, {"closed": True}):
        last = keeper.ask("PATCH", f"/api/people/{ids['kay']}", json=change)
        assert (last.status_code, last.json["field"]) == (422, "role")
    keeper.ask("PATCH", f"/api/people/{ids['milo']}", json={"role": "keeper"})
    assert keeper.ask("PATCH", f"/api/people/{ids['kay']}", json={"role": "maker"}).status_code == 200
    # A role counts from the next request on.
    assert keeper.get("/api/people").status_code == 403


def second_factor(browser: Browser) -> tuple[str, list[str]]:
    secret = browser.post("/api/me/factor", json={"password": PASSWORD}).json["secret"]
    body = {"password": PASSWORD, "secret": secret, "code": pyotp.TOTP(secret).now()}
    return secret, browser.ask("PUT", "/api/me/factor", json=body).json["codes"]


def test_a_second_factor_is_asked_for_and_each_code_works_once(signed_in, workshop):
    browser = signed_in("mira")
    secret, spare = second_factor(browser)
    asked = workshop().sign_in("mira")
    assert (asked.status_code, asked.json["code_wanted"], asked.json["me"]) == (200, True, None)
    # A wrong password does not tell that there is one.
    assert workshop().sign_in("mira", "wrong", "000000").status_code == 401
    assert workshop().sign_in("mira", PASSWORD, "000000").status_code == 401
    code = pyotp.TOTP(secret).now()
    assert workshop().sign_in("mira", PASSWORD, code).json["me"]["person"]["two_factors"]
    assert workshop().sign_in("mira", PASSWORD, code).status_code == 401
    assert workshop().sign_in("mira", PASSWORD, f" {spare[0]} ").status_code == 200
    assert workshop().sign_in("mira", PASSWORD, spare[0]).status_code == 401
    assert workshop().sign_in("mira", PASSWORD, spare[1].replace("-", "")).status_code == 200
    assert browser.post("/api/me/factor/drop", json={"password": "wrong"}).status_code == 422
    assert browser.post("/api/me/factor/drop", json={"password": PASSWORD}).status_code == 200
    assert workshop().sign_in("mira").json["me"]


def test_a_second_factor_that_was_not_scanned_is_not_asked_for(signed_in, workshop):
    browser = signed_in("mira")
    made = browser.post("/api/me/factor", json={"password": PASSWORD}).json
    assert made["picture"].startswith("<?xml") or made["picture"].startswith("<svg")
    body = {"password": PASSWORD, "secret": made["secret"], "code": "000000"}
    assert browser.ask("PUT", "/api/me/factor", json=body).json["field"] == "code"
    assert workshop().sign_in("mira").json["me"]


def test_what_was_done_can_be_read_by_keepers_and_holds_no_secret(signed_in, workshop, piece_of):
    workshop().sign_in("mira", "my real password, mistyped")
    owner = signed_in("mira")
    piece = piece_of(owner)
    owner.ask("PUT", f"/api/pieces/{piece['id']}/sharing", json={"openness": "shown"})
    assert owner.get("/api/record").status_code == 403
    told = signed_in("kay").get("/api/record").json
    assert [(h["who"], h["what"]) for h in told["happenings"]] == [
        ("Kay", "signed in"),
        ("Mira", "opened a piece"),
        ("Mira", "signed in"),
        (None, "tried to sign in"),
    ]
    assert told["total"] == 4
    assert "mistyped" not in str(told)


def test_a_piece_is_shared_with_one_person_and_given_away(signed_in, piece_of, bench):
    owner, other = signed_in("mira"), signed_in("milo")
    piece = piece_of(owner)["id"]
    ids = {p.name: p.id for p in bench.accounts.all()}
    assert [p["title"] for p in owner.get("/api/people/names").json["people"]] == ["Gus", "Kay", "Milo"]
    shared = owner.ask("PUT", f"/api/pieces/{piece}/sharing/{ids['milo']}", json={"right": "look"}).json
    assert [(p["title"], p["right"]) for p in shared["people"]] == [("Milo", "look")]
    assert other.get(f"/api/pieces/{piece}/head").status_code == 200
    assert owner.ask("PUT", f"/api/pieces/{piece}/sharing/nobody", json={"right": "look"}).status_code == 404
    assert owner.post(f"/api/pieces/{piece}/owner", json={"account": ids["milo"]}).status_code == 204
    assert owner.get(f"/api/pieces/{piece}/head").status_code == 404
    assert other.ask("PATCH", f"/api/pieces/{piece}", json={"name": "Mine now"}).status_code == 200


def test_on_a_network_it_answers_to_its_names_and_keeps_to_tls(bench, workshop):
    del workshop
    shared = Workshop(b"another secret", secure=True, names=("drelo.club.test",), proxies=1, guesses=False)
    client = create_app(bench, shared=shared).test_client()
    proxied = {"X-Forwarded-For": "192.0.2.7", "X-Forwarded-Proto": "https", "X-Forwarded-Host": "drelo.club.test"}
    answer = client.get("/api/me", headers=proxied)
    assert answer.status_code == 200
    assert answer.headers["Strict-Transport-Security"]
    token = answer.json["token"]
    body = {"name": "mira", "password": "wrong"}
    client.post("/api/sign-in", json=body, headers={**proxied, "X-CSRFToken": token})
    told = bench.record.page(None, 1)[0][0]
    assert (told.what, told.address) == ("tried to sign in", "192.0.2.7")
    other = client.get("/api/me", headers={**proxied, "X-Forwarded-Host": "elsewhere.test"})
    assert other.status_code == 400
