"""Every address against every role: what is not allowed by the table is refused."""

from __future__ import annotations

import re

import pytest

from drelo.core.people.rights import Right
from drelo.web.app import create_app
from drelo.web.people.access import NEEDS
from drelo.web.people.workshop import Workshop

RULES = [
    (rule.endpoint, rule.rule, method)
    for rule in create_app(type("Nothing", (), {})(), shared=Workshop(b"nothing")).url_map.iter_rules()  # type: ignore[arg-type]
    for method in sorted(rule.methods - {"HEAD", "OPTIONS"})
]
WHO = ("nobody", "guest", "stranger", "looker", "editor", "owner", "keeper")


def test_every_address_is_in_the_table_and_no_other():
    assert {endpoint for endpoint, _, _ in RULES} == set(NEEDS)


@pytest.fixture
def people(workshop, signed_in, piece_of, bench):
    """One who owns a piece, and all others that there can be to it."""
    owner = signed_in("mira")
    piece = piece_of(owner)
    for name, role in (("lola", "maker"), ("edda", "maker")):
        bench.accounts.add(name, name, role, bench.accounts.secrets("mira").password)
    ids = {p.name: p.id for p in bench.accounts.all()}
    bench.shares.share(piece["id"], ids["lola"], "look")
    bench.shares.share(piece["id"], ids["edda"], "edit")
    plan = owner.post("/api/beds", json={"things": [{"piece": piece["id"]}]}).json["id"]
    names = {"guest": "gus", "stranger": "milo", "looker": "lola", "editor": "edda", "keeper": "kay"}
    browsers = {who: signed_in(name) for who, name in names.items()} | {"owner": owner, "nobody": workshop()}
    return browsers, piece["id"], plan


def filled(rule: str, piece: str, plan: str) -> str:
    """An address of a rule: the piece's and the plan's where it has them, and something that is not there else."""
    address = rule.replace("<piece_id>", piece).replace("<plan>", plan)
    address = re.sub(r"<int:[a-z]+>", "1", address)
    address = re.sub(r"<(key|sha256|look)>", "0" * 64, address)
    return re.sub(r"<[^>]+>", "nothing1", address)


def allowed(who: str, endpoint: str) -> bool:
    """What the table comes to, told once more and otherwise."""
    need = NEEDS[endpoint]
    if need.who == "everybody":
        return True
    if who == "nobody" or need.who == "nobody":
        return False
    if need.who == "keeper" and who != "keeper":
        return False
    if need.who == "maker" and who == "guest":
        return False
    if need.plan and who != "owner":
        return False
    rights = {"looker": Right.LOOK, "editor": Right.EDIT, "owner": Right.OWN}
    return rights.get(who, Right.NONE) >= need.piece


DENIED = {"/problems/sign-in", "/problems/role", "/problems/right"}


def test_role_by_route(people):
    """Nothing of what is refused is let through, and nothing of what is allowed is refused for the role's sake."""
    browsers, piece, plan = people
    wrong = []
    for endpoint, rule, method in RULES:
        # What would end the test's own piece, plan or sign-in comes last, by its owner, and is tried elsewhere.
        ends = endpoint in (
            "pieces.delete_piece",
            "beds.drop",
            "accounts.sign_out",
            "accounts.end_others",
            "sharing.give",
        )
        for who in WHO:
            may = allowed(who, endpoint)
            if ends and may:
                continue
            answer = browsers[who].ask(method, filled(rule, piece, plan), json={} if method != "GET" else None)
            kind = (
                (answer.json or {}).get("type", "")
                if answer.is_json or "problem" in (answer.content_type or "")
                else ""
            )
            if answer.status_code == 500:
                wrong.append((who, method, rule, 500))
            hidden = answer.status_code == 404 and (NEEDS[endpoint].piece > Right.NONE or NEEDS[endpoint].plan)
            refused = kind in DENIED or hidden
            if not may and not refused:
                wrong.append((who, method, rule, answer.status_code))
            if may and kind in DENIED and endpoint != "accounts.sign_in":
                wrong.append((who, method, rule, "refused", kind))
    assert wrong == []


def test_what_one_may_not_see_is_as_if_it_were_not_there(people):
    browsers, piece, _ = people
    hidden = browsers["stranger"].get(f"/api/pieces/{piece}")
    missing = browsers["stranger"].get("/api/pieces/nothing")
    assert (hidden.status_code, hidden.json["detail"]) == (missing.status_code, missing.json["detail"])


def test_the_list_holds_what_one_may_look_at_and_says_whose_it_is(people):
    browsers, piece, _ = people

    def row(who):
        return next((p for p in browsers[who].get("/api/pieces").json["pieces"] if p["id"] == piece), None)

    assert row("stranger") is None
    assert row("guest") is None
    assert (row("owner")["right"], row("owner")["owner"]) == ("own", None)
    assert (row("looker")["right"], row("looker")["owner"]) == ("look", "Mira")
    assert (row("editor")["right"], row("editor")["owner"]) == ("edit", "Mira")


def test_what_is_looked_at_is_not_changed_and_what_is_edited_is_not_deleted(people):
    browsers, piece, _ = people
    revision = browsers["looker"].get(f"/api/pieces/{piece}").json["piece"]["revision"]
    body = {"revision": revision, "edit": {"do": "set-base", "thickness": 3}}
    refused = browsers["looker"].post(f"/api/pieces/{piece}/edits", json=body)
    assert (refused.status_code, refused.json["type"]) == (403, "/problems/right")
    assert browsers["editor"].post(f"/api/pieces/{piece}/edits", json=body).status_code == 200
    assert browsers["editor"].ask("DELETE", f"/api/pieces/{piece}").status_code == 403
    assert browsers["owner"].ask("DELETE", f"/api/pieces/{piece}").status_code == 204


def test_a_change_without_the_pages_token_is_refused(people):
    browsers, piece, _ = people
    answer = browsers["owner"].client.delete(f"/api/pieces/{piece}")
    assert (answer.status_code, answer.json["type"]) == (400, "/problems/token")


def test_a_bed_shows_nothing_of_a_piece_that_is_no_longer_shared(people, bench):
    browsers, piece, _ = people
    mine = browsers["looker"].post("/api/beds", json={"things": [{"piece": piece}]}).json
    assert mine["pieces"][0]["outline"]
    ids = {p.name: p.id for p in bench.accounts.all()}
    bench.shares.share(piece, ids["lola"], None)
    later = browsers["looker"].get(f"/api/beds/{mine['id']}").json["pieces"][0]
    assert later["outline"] == []
    assert "no longer shared" in later["missing"]
    taken = browsers["stranger"].post("/api/beds", json={"things": [{"piece": piece}]})
    assert taken.status_code in (404, 422)


def test_what_is_from_before_there_were_people_is_the_keepers_and_shown(signed_in, bench):
    from drelo.core.piece.document import Document

    piece = bench.pieces.create("Old", Document()).id
    assert signed_in("gus").get(f"/api/pieces/{piece}/head").status_code == 200
    assert signed_in("milo").ask("PATCH", f"/api/pieces/{piece}", json={"name": "Mine"}).status_code == 403
    assert signed_in("kay").ask("PATCH", f"/api/pieces/{piece}", json={"name": "Ours"}).status_code == 200


def test_a_guest_looks_even_where_everybody_may_edit(signed_in, piece_of):
    owner = signed_in("mira")
    piece = piece_of(owner)
    opened = owner.ask("PUT", f"/api/pieces/{piece['id']}/sharing", json={"openness": "edited"})
    assert opened.json["openness"] == "edited"
    body = {"revision": piece["revision"], "edit": {"do": "set-base", "thickness": 3}}
    assert signed_in("gus").post(f"/api/pieces/{piece['id']}/edits", json=body).status_code == 403
    assert signed_in("milo").post(f"/api/pieces/{piece['id']}/edits", json=body).status_code == 200
