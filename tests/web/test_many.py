"""The same piece for many names, over the wire."""

from __future__ import annotations

import io
import zipfile

import pytest
from sqlalchemy import delete

from drelo.core.solid.seal import check_seal
from drelo.formats.stl import read_stl
from drelo.formats.threemf import read_3mf
from drelo.store.models import Derived

WORDS = {"kind": "lettering", "id": "w", "text": "Plot One", "at": [0, 0], "height": 8, "font": "font:script"}


@pytest.fixture
def plate(client) -> dict:
    made = client.post("/api/pieces", json={"name": "Plot plates"}).json
    edit = {"do": "put-drawn", "things": [WORDS]}
    put = client.post(f"/api/pieces/{made['id']}/edits", json={"revision": made["revision"], "edit": edit}).json
    form = {"do": "set-form", "form": "nameplate"}
    piece = put["piece"]
    return client.post(f"/api/pieces/{piece['id']}/edits", json={"revision": piece["revision"], "edit": form}).json[
        "piece"
    ]


def one(client, plate, name: str, packing: str = "beds"):
    body = {"revision": plate["revision"], "name": name, "packing": packing, "within": 0.05}
    return client.post(f"/api/pieces/{plate['id']}/many/one", json=body)


def pack(client, plate, names, packing="beds", **more):
    made = [{"key": one(client, plate, n, packing).json["key"], "name": n} for n in names]
    many = f"/api/pieces/{plate['id']}/many"
    if packing == "stl":
        return client.post(f"{many}/pack", json={"made": made, "suffix": "stl"})
    laid = client.post(f"{many}/beds", json={"made": made, **more})
    if laid.status_code != 200:
        return laid
    beds = [
        {"key": client.post(f"{many}/bed", json={"number": i, "laid": bed}).json["key"], "name": f"bed-{i}"}
        for i, bed in enumerate(laid.json["beds"], 1)
    ]
    return client.post(f"{many}/pack", json={"made": beds, "suffix": "3mf"})


def test_names_are_packed_on_a_bed_each_sealed_and_apart(client, plate):
    answer = pack(client, plate, ["Ada", "Bo", "Cy"], bed=[120, 120], spacing=5)
    assert answer.status_code == 200, answer.text
    assert (answer.json["count"], answer.json["name"]) == (1, "plot-plates-names.3mf")
    bodies = read_3mf(client.get(answer.json["url"]).data)
    assert {b.name.split(":")[0] for b in bodies} == {"Ada", "Bo", "Cy"}
    assert all(check_seal(b.mesh).sealed for b in bodies)
    boxes = {}
    for body in bodies:
        low, high = body.mesh.vertices.min(axis=0), body.mesh.vertices.max(axis=0)
        before = boxes.get(body.name.split(":")[0], (low, high))
        boxes[body.name.split(":")[0]] = (
            [min(a, b) for a, b in zip(low, before[0], strict=True)],
            [max(a, b) for a, b in zip(high, before[1], strict=True)],
        )
    found = list(boxes.values())
    for i, (low, high) in enumerate(found):
        assert max(high[:2]) <= 120
        for other_low, other_high in found[:i]:
            clear = [max(low[k] - other_high[k], other_low[k] - high[k]) for k in (0, 1)]
            assert max(clear) >= 4.99


def test_several_beds_come_as_one_zip_of_3mfs(client, plate):
    answer = pack(client, plate, ["Ada", "Bo", "Cy"], bed=[60, 22], spacing=2)
    assert (answer.json["count"], answer.json["name"]) == (2, "plot-plates-names.zip")
    with zipfile.ZipFile(io.BytesIO(client.get(answer.json["url"]).data)) as archive:
        assert archive.testzip() is None
        assert archive.namelist() == ["bed-1.3mf", "bed-2.3mf"]
        assert all(read_3mf(archive.read(n)) for n in archive.namelist())


def test_what_is_gone_is_said_before_anything_is_sent(client, plate, maker):
    answer = pack(client, plate, ["Ada", "Bo"], "stl")
    with maker.begin() as session:
        session.execute(delete(Derived))
    assert client.get(answer.json["url"]).status_code == 404
    gone = client.post(
        f"/api/pieces/{plate['id']}/many/pack", json={"made": [{"key": "0" * 64, "name": "Ada"}], "suffix": "stl"}
    )
    assert gone.status_code == 422
    assert "Ada has been cleared away" in gone.json["detail"]


def test_names_that_come_to_too_much_are_refused_with_the_first(client, plate, monkeypatch):
    monkeypatch.setattr("drelo.web.many.MOST_PACKED", 2**20)
    body = {"revision": plate["revision"], "name": "Ada", "packing": "stl", "among": 900}
    answer = client.post(f"/api/pieces/{plate['id']}/many/one", json=body)
    assert answer.status_code == 422
    assert "Make fewer at a time" in answer.json["detail"]


def test_names_as_single_files(client, plate):
    answer = pack(client, plate, ["Ada", "Ada", "Bo"], "stl")
    data = client.get(answer.json["url"]).data
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.namelist() == ["ada.stl", "ada-2.stl", "bo.stl"]
        assert all(check_seal(read_stl(archive.read(n))).sealed for n in archive.namelist())


def test_a_name_that_does_not_fit_the_bed_is_named(client, plate):
    answer = pack(client, plate, ["Bartholomew"], bed=[30, 30])
    assert answer.status_code == 422
    assert "Bartholomew" in answer.json["detail"]
    assert "bed" in answer.json["detail"]


def test_a_name_that_the_font_cannot_set_is_refused(client, plate):
    answer = one(client, plate, "漢字")
    assert answer.status_code == 422
    assert answer.json["detail"]


def test_a_piece_without_words_is_refused(client):
    made = client.post("/api/pieces", json={"name": "Bare"}).json
    answer = one(client, made, "Ada")
    assert answer.status_code == 422
    assert "words" in answer.json["detail"]


@pytest.mark.parametrize(
    ("text", "names"),
    [("Ada\nBo\n\n  Cy \n", ["Ada", "Bo", "Cy"]), ("name,plot\nAda,1\nBo,2", ["Ada", "Bo"])],
)
def test_a_list_is_read(client, text, names):
    assert client.post("/api/names", json={"text": text}).json["names"] == names


def test_an_empty_list_says_what_to_do(client):
    answer = client.post("/api/names", json={"text": " \n"})
    assert answer.status_code == 422
    assert "one name per line" in answer.json["detail"]
