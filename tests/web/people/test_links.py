"""Links by which anybody may look at a piece."""

from __future__ import annotations

import pytest

from drelo.web.app import create_app
from drelo.web.people.workshop import Workshop
from tests.web.people.conftest import Browser


@pytest.fixture
def mira(signed_in) -> Browser:
    return signed_in("mira")


@pytest.fixture
def piece(mira, piece_of) -> str:
    return piece_of(mira)["id"]


@pytest.fixture
def token(mira, piece) -> str:
    return mira.post(f"/api/pieces/{piece}/link").json["token"]


def test_who_has_the_link_sees_the_piece_as_it_stands_without_signing_in(workshop, mira, piece, token):
    visitor = workshop()
    seen = visitor.get(f"/api/shown/{token}")
    assert seen.status_code == 200
    assert seen.json["title"] == mira.get(f"/api/pieces/{piece}").json["piece"]["name"]
    assert seen.json["regions"]
    assert seen.json["box"][2] > 0
    solid = visitor.get(f"/api/shown/{token}/solid/{seen.json['revision']}")
    assert solid.data[:4] == b"glTF"


def test_they_see_nothing_else(workshop, mira, piece, token):
    visitor = workshop()
    seen = visitor.get(f"/api/shown/{token}").json
    assert set(seen) == {"title", "revision", "box", "base", "regions"}
    assert {key for region in seen["regions"] for key in region} == {"path", "colour"}
    for address in (f"/api/pieces/{piece}", f"/api/pieces/{piece}/versions", "/api/pieces"):
        assert visitor.get(address).status_code == 401
    before = seen["revision"]
    opened = mira.get(f"/api/pieces/{piece}").json
    region = opened["flat"]["regions"][0]
    edit = {"do": "set-regions", "picked": [{"id": region["id"], "mark": region["mark"]}], "height": 2.7}
    mira.post(f"/api/pieces/{piece}/edits", json={"revision": before, "edit": edit})
    assert visitor.get(f"/api/shown/{token}/solid/{before}").status_code == 404


@pytest.mark.parametrize("way", ["ended", "replaced", "deleted", "given away"])
def test_a_link_ends(workshop, bench, mira, piece, token, way):
    visitor = workshop()
    if way == "ended":
        assert mira.ask("DELETE", f"/api/pieces/{piece}/link").json["link"] is False
    elif way == "replaced":
        again = mira.post(f"/api/pieces/{piece}/link").json["token"]
        assert visitor.get(f"/api/shown/{again}").status_code == 200
    elif way == "deleted":
        mira.ask("DELETE", f"/api/pieces/{piece}")
    else:
        mira.post(f"/api/pieces/{piece}/owner", json={"account": bench.accounts.secrets("milo").person.id})
    assert visitor.get(f"/api/shown/{token}").status_code == 404


def test_only_the_owner_makes_one_and_it_is_in_the_record(signed_in, bench, mira, piece, token):
    milo, kay = signed_in("milo"), signed_in("kay")
    bench.shares.share(piece, bench.accounts.secrets("milo").person.id, "edit")
    assert milo.post(f"/api/pieces/{piece}/link").status_code == 403
    assert mira.get(f"/api/pieces/{piece}/sharing").json["link"] is True
    record = str(kay.get("/api/record").json)
    assert "made a link" in record
    assert token not in record


def test_what_the_table_holds_is_of_no_use(workshop, bench, maker, piece, token):
    from sqlalchemy import text

    with maker() as session:
        stored = session.scalar(text("select link from piece where id = :id"), {"id": piece})
    assert stored
    assert workshop().get(f"/api/shown/{stored}").status_code == 404


def test_guessing_links_is_slowed_down(bench):
    app = create_app(bench, shared=Workshop(b"secret of the tests", guesses=True))
    visitor = app.test_client()
    answers = [visitor.get(f"/api/shown/guess{n:08}").status_code for n in range(125)]
    assert answers[0] == 404
    assert answers[-1] == 429
