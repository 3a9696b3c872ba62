"""Files that were made of a piece follow its rights, whoever knows their address."""

from __future__ import annotations

import itertools

import pytest


@pytest.fixture
def mira(signed_in):
    return signed_in("mira")


# What is made of two pieces that are alike is one file: pieces of other tests are to be unlike these.
_thickness = itertools.count(11)


@pytest.fixture
def piece(mira, piece_of):
    begun = piece_of(mira)
    edit = {"do": "set-base", "thickness": next(_thickness) / 8}
    return mira.post(f"/api/pieces/{begun['id']}/edits", json={"revision": begun["revision"], "edit": edit}).json[
        "piece"
    ]


@pytest.fixture
def addresses(mira, piece) -> dict[str, str]:
    """Of all that can be made of a piece."""
    at = f"/api/pieces/{piece['id']}"
    revision = {"revision": piece["revision"]}
    export = mira.post(f"{at}/take-away", json={**revision, "kind": "stl"}).json["url"]
    rehearsal = mira.post(f"{at}/rehearsal", json=revision).json["key"]
    one = export.split("/")[3].split("?")[0]
    pack = mira.post(f"{at}/many/pack", json={"made": [{"key": one, "name": "Ann"}], "suffix": "stl"}).json["url"]
    return {
        "export": export,
        "outlines": mira.post(f"{at}/outlines", json={**revision, "kind": "svg"}).json["url"],
        "recipe": mira.post(f"{at}/recipe", json=revision).json["url"],
        "archive": mira.post(f"{at}/archive").json["url"],
        "rehearsal": f"/api/rehearsals/{rehearsal}",
        "pattern": f"/api/rehearsals/{rehearsal}/patterns/0",
        "pack": pack,
    }


def test_they_are_there_for_whoever_may_look_and_for_nobody_else(mira, piece, addresses, signed_in, workshop, bench):
    milo, gus, kay = signed_in("milo"), signed_in("gus"), signed_in("kay")
    bench.shares.share(piece["id"], bench.accounts.secrets("gus").person.id, "look")
    for what, address in addresses.items():
        assert mira.get(address).status_code == 200, what
        assert gus.get(address).status_code == 200, what
        for other in (milo, kay):
            assert other.get(address).status_code == 404, what
        assert workshop().get(address).status_code == 401, what


def test_they_go_with_the_sharing(mira, piece, addresses, signed_in):
    milo = signed_in("milo")
    mira.ask("PUT", f"/api/pieces/{piece['id']}/sharing", json={"openness": "shown"})
    assert [milo.get(a).status_code for a in addresses.values()] == [200] * len(addresses)
    mira.ask("PUT", f"/api/pieces/{piece['id']}/sharing", json={"openness": "private"})
    assert [milo.get(a).status_code for a in addresses.values()] == [404] * len(addresses)


def test_a_file_of_somebody_elses_is_not_taken_by_its_key(mira, piece, addresses, signed_in, piece_of):
    milo = signed_in("milo")
    own = piece_of(milo)
    key = addresses["export"].split("/")[3].split("?")[0]
    made = [{"key": key, "name": "Ann"}]
    for way, body in (
        ("pack", {"made": made, "suffix": "stl"}),
        ("beds", {"made": made, "bed": [200, 200], "spacing": 2}),
    ):
        assert milo.post(f"/api/pieces/{own['id']}/many/{way}", json=body).status_code == 422, way


def test_the_same_made_of_two_pieces_is_there_for_both(mira, piece, signed_in, bench):
    milo = signed_in("milo")
    mira.ask("PUT", f"/api/pieces/{piece['id']}/sharing", json={"openness": "shown"})
    copy = milo.post(f"/api/pieces/{piece['id']}/duplicate").json
    mira.ask("PUT", f"/api/pieces/{piece['id']}/sharing", json={"openness": "private"})
    urls = [
        who.post(f"/api/pieces/{of['id']}/recipe", json={"revision": of["revision"]}).json["url"].split("?")[0]
        for who, of in ((mira, piece), (milo, copy))
    ]
    assert urls[0] == urls[1]
    assert [who.get(urls[0]).status_code for who in (mira, milo)] == [200, 200]


def test_files_of_a_bed_are_its_planners(mira, piece, signed_in):
    plan = mira.post("/api/beds", json={"things": [{"piece": piece["id"]}]}).json["id"]
    url = mira.post(f"/api/beds/{plan}/0/file").json["url"]
    assert mira.get(url).status_code == 200
    assert signed_in("milo").get(url).status_code == 404
