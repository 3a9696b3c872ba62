"""Filaments of one's own: on the shelf, in a piece, in the file."""

from __future__ import annotations

import io
import zipfile

import pytest

SPOOL = {
    "name": "Rust",
    "colour": "#b5532f",
    "material": "PETG",
    "density": 1.27,
    "diameter": 1.75,
    "price": 24.5,
}


def test_a_filament_on_the_shelf_is_there_for_new_pieces_and_others_keep_their_copies(client):
    before = client.post("/api/pieces", json={"name": "Before"}).json
    first = [f["name"] for f in client.get("/api/filaments").json["filaments"]]
    listed = client.put("/api/filaments/rust", json=SPOOL).json["filaments"]
    assert [f["name"] for f in listed] == [*first, "Rust"]
    after = client.post("/api/pieces", json={"name": "After", "units": "inch"}).json["document"]
    assert {"id": "rust", **SPOOL} in after["filaments"]
    assert after["units"] == "inch"
    assert client.put("/api/filaments/rust", json={**SPOOL, "name": "Red earth"}).status_code == 200
    kept = client.get(f"/api/pieces/{before['id']}").json["piece"]["document"]["filaments"]
    assert "Rust" not in [f["name"] for f in kept]
    assert "Red earth" not in [f["name"] for f in client.delete("/api/filaments/rust").json["filaments"]]


@pytest.mark.parametrize(
    "wrong", [{**SPOOL, "colour": "rust"}, {**SPOOL, "name": ""}, {**SPOOL, "material": "x" * 41}, {"name": "Rust"}]
)
def test_a_filament_that_is_none_is_refused(client, wrong):
    answer = client.put("/api/filaments/rust", json=wrong)
    assert answer.status_code == 422
    assert answer.json["detail"]


def edited(client, piece, **edit):
    answer = client.post(f"/api/pieces/{piece['id']}/edits", json={"revision": piece["revision"], "edit": edit})
    assert answer.status_code == 200, answer.json
    return answer.json["piece"]


def test_a_3mf_says_what_each_body_is_and_of_which_filament(client):
    piece = client.post("/api/pieces", json={}).json
    leaf = {"kind": "shape", "id": "leaf", "name": "Leaf", "form": "circle", "at": [0, 0], "width": 20, "height": 20}
    piece = edited(client, piece, do="put-drawn", things=[{**leaf, "fill": SPOOL["colour"]}])
    piece = edited(client, piece, do="set-filament", id="rust", **SPOOL)
    taken = client.post(
        f"/api/pieces/{piece['id']}/take-away", json={"revision": piece["revision"], "kind": "3mf"}
    ).json
    with zipfile.ZipFile(io.BytesIO(client.get(taken["url"]).data)) as archive:
        model = archive.read("3D/3dmodel.model").decode()
    assert '<base name="Rust PETG" displaycolor="#B5532FFF"/>' in model
    assert 'name="Leaf"' in model
    assert 'name="base"' in model


def test_what_is_left_is_the_shelfs_and_what_a_kilogram_costs_the_pieces(client):
    listed = client.put("/api/filaments/rust", json={**SPOOL, "weighed": 12.5}).json["filaments"]
    assert listed[-1]["weighed"] == 12.5
    piece = client.post("/api/pieces", json={}).json
    piece = edited(client, piece, do="set-filament", id="rust", name="Red", colour="#b5532f")
    (mine,) = (f for f in piece["document"]["filaments"] if f["id"] == "rust")
    # What an edit does not say stays.
    assert (mine["name"], mine["price"], mine["density"]) == ("Red", 24.5, 1.27)
    assert "weighed" not in mine
    client.delete("/api/filaments/rust")


def test_a_filament_that_is_dropped_gives_its_regions_to_another(client):
    piece = client.post("/api/pieces", json={}).json
    dropped = edited(client, piece, do="drop-filament", id="night", instead="leaf")
    document = dropped["document"]
    assert document["base"]["filament"] == "leaf"
    assert "night" not in [f["id"] for f in document["filaments"]]
    answer = client.post(
        f"/api/pieces/{piece['id']}/edits",
        json={"revision": dropped["revision"], "edit": {"do": "drop-filament", "id": "leaf", "instead": "leaf"}},
    )
    assert answer.status_code == 422


def test_a_seventeenth_filament_is_refused(client):
    piece = client.post("/api/pieces", json={}).json
    for number in range(16 - len(piece["document"]["filaments"])):
        piece = edited(client, piece, do="set-filament", id=f"own{number}", name=f"Own {number}", colour="#123456")
    answer = client.post(
        f"/api/pieces/{piece['id']}/edits",
        json={"revision": piece["revision"], "edit": {"do": "set-filament", "id": "more", **SPOOL}},
    )
    assert answer.status_code == 422
    assert "16" in answer.json["detail"]


def test_a_piece_that_nobody_named_is_called_by_its_words(client):
    piece = client.post("/api/pieces", json={}).json
    words = {"kind": "lettering", "id": "w", "text": "Words", "at": [0, 0], "height": 10}
    piece = edited(client, piece, do="put-drawn", things=[words])
    assert piece["name"] == "New piece"
    piece = edited(client, piece, do="put-drawn", things=[{**words, "text": "Bean row"}])
    assert piece["name"] == "Bean row"
    # From then on it keeps its name.
    piece = edited(client, piece, do="put-drawn", things=[{**words, "text": "Pea row"}])
    assert piece["name"] == "Bean row"
