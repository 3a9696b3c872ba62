"""The API as a browser meets it: real database, real workers."""

import io
import json
import zipfile

import numpy as np
import pytest

from drelo.core.solid.seal import check_seal
from drelo.formats.stl import read_stl
from drelo.formats.threemf import read_3mf
from drelo.web.app import create_app
from drelo.web.description import described
from drelo.web.people.workshop import Workshop
from tests.conftest import ROOT
from tests.core.test_picture import BAD, bomb


@pytest.fixture
def begun(client, ring_png) -> dict:
    answer = client.post("/api/pieces/from-picture", data={"picture": (io.BytesIO(ring_png), "my-ring_one.png")})
    assert answer.status_code == 200
    return answer.json


def edit(client, bench: dict, revision: int | None = None, **change):
    piece = bench["piece"]
    body = {"revision": revision or piece["revision"], "edit": change}
    return client.post(f"/api/pieces/{piece['id']}/edits", json=body)


def test_a_picture_begins_a_piece(begun):
    assert begun["piece"]["name"] == "My ring one"
    assert len(begun["flat"]["regions"]) == 2
    assert [p["width"] for p in begun["piece"]["document"]["pictures"]] == [420]


def test_pieces_are_listed_named_copied_deleted_and_brought_back(client, begun):
    key = begun["piece"]["id"]
    address = f"/api/pieces/{key}"
    assert client.patch(address, json={"name": "Coaster"}).json["name"] == "Coaster"
    copy = client.post(f"{address}/duplicate").json
    assert copy["name"] == "Coaster, copy"
    assert client.delete(address).status_code == 204
    listed = [p["id"] for p in client.get("/api/pieces").json["pieces"]]
    assert copy["id"] in listed
    assert key not in listed
    assert client.get(address).status_code == 404
    assert client.post(f"{address}/restore").json["name"] == "Coaster"
    assert client.get(address).json["piece"]["revision"] == begun["piece"]["revision"]


def test_edit_undo_redo(client, begun):
    higher = edit(client, begun, do="set-defaults", height=3).json
    assert higher["flat"]["regions"][0]["height"] == 3
    address = f"/api/pieces/{begun['piece']['id']}"
    back = client.post(f"{address}/undo", json={"revision": higher["piece"]["revision"]}).json
    assert back["flat"]["regions"][0]["height"] == 1.2
    assert back["piece"]["can_redo"]
    forth = client.post(f"{address}/redo", json={"revision": back["piece"]["revision"]}).json
    assert forth["flat"]["regions"][0]["height"] == 3


def test_an_edit_on_an_old_revision_is_409_with_what_stands(client, begun):
    edit(client, begun, do="set-defaults", height=3)
    answer = edit(client, begun, do="set-defaults", height=7)
    assert answer.status_code == 409
    assert answer.content_type == "application/problem+json"
    assert answer.json["bench"]["flat"]["regions"][0]["height"] == 3
    assert answer.json["bench"]["piece"]["revision"] > begun["piece"]["revision"]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"do": "set-scale", "points": [[0, 0], [0, 0]], "mm": 5}, "points"),
        ({"do": "set-trace", "level": 7}, "edit.level"),
        ({"do": "set-trace", "speck": 1e8}, "level"),
        ({"do": "set-base", "thickness": -1}, "edit.thickness"),
        ({"do": "nonsense"}, "edit"),
    ],
)
def test_edits_that_cannot_be_are_refused_and_not_stored(client, begun, change, field):
    answer = edit(client, begun, **change)
    assert answer.status_code == 422
    assert answer.json["field"] == field
    assert answer.json["detail"]
    assert client.get(f"/api/pieces/{begun['piece']['id']}").json["piece"]["revision"] == begun["piece"]["revision"]


def test_previews_store_nothing(client, begun):
    address = f"/api/pieces/{begun['piece']['id']}"
    body = {
        "revision": begun["piece"]["revision"],
        "edit": {"do": "set-size", "side": "height", "mm": 30},
    }
    assert client.post(f"{address}/preview", json=body).json["height"] == pytest.approx(30)
    glb = client.post(f"{address}/solid", json=body)
    assert glb.data[:4] == b"glTF"
    assert client.get(address).json["flat"]["height"] != pytest.approx(30)


def test_the_solid_is_valid_binary_gltf(client, begun):
    piece = begun["piece"]
    data = client.get(f"/api/pieces/{piece['id']}/solid/{piece['revision']}").data
    length = int.from_bytes(data[12:16], "little")
    document = json.loads(data[20 : 20 + length])
    assert int.from_bytes(data[8:12], "little") == len(data)
    runs = document["meshes"][0]["extras"]["runs"]
    assert {run["region"] for run in runs} == {"base", *(r["id"] for r in begun["flat"]["regions"])}
    assert sum(run["count"] for run in runs) * 3 == document["accessors"][0]["count"]
    assert document["buffers"][0]["byteLength"] == len(data) - 28 - length


def test_the_solid_says_what_goes_along_with_the_height_of_each_region(client, begun):
    piece = begun["piece"]
    data = client.get(f"/api/pieces/{piece['id']}/solid/{piece['revision']}").data
    length = int.from_bytes(data[12:16], "little")
    extras = json.loads(data[20 : 20 + length])["meshes"][0]["extras"]
    heights = {region["id"]: region["height"] for region in begun["flat"]["regions"]}
    assert extras["heights"] == pytest.approx(heights)
    rows = np.array(extras["rising"]).reshape(-1, 4)
    points = np.frombuffer(data, np.float32, offset=28 + length).reshape(-1, 3, 3)
    for first, many, under, over in rows.tolist():
        top = points[first : first + many, :, 2].max()
        assert top == pytest.approx(2 + heights[extras["regions"][over]], abs=1e-6)
        assert under in (-1, over) or extras["regions"][under] != "base"
    assert {extras["regions"][over] for over in rows[:, 3]} == set(heights)


@pytest.mark.parametrize("kind", ["stl", "3mf"])
def test_files_taken_away_are_sealed(client, begun, kind):
    piece = begun["piece"]
    taken = client.post(
        f"/api/pieces/{piece['id']}/take-away",
        json={"revision": piece["revision"], "kind": kind, "within": 0.05},
    ).json
    assert taken["sealed"]
    answer = client.get(taken["url"])
    assert answer.headers["Content-Disposition"] == f'attachment; filename="my-ring-one.{kind}"'
    assert len(answer.data) == taken["bytes"]
    meshes = [read_stl(answer.data)] if kind == "stl" else [b.mesh for b in read_3mf(answer.data)]
    assert all(check_seal(mesh).sealed for mesh in meshes)
    assert taken["size_mm"][0] == pytest.approx(66, abs=0.05)


def test_where_the_picture_came_from_travels_into_the_3mf(client, begun):
    piece = begun["piece"]
    edit = {"do": "set-source", "origin": "drawn at the fair", "permission": "asked"}
    changed = client.post(f"/api/pieces/{piece['id']}/edits", json={"revision": piece["revision"], "edit": edit}).json[
        "piece"
    ]
    assert changed["document"]["pictures"][0]["permission"] == "asked"
    taken = client.post(
        f"/api/pieces/{piece['id']}/take-away", json={"revision": changed["revision"], "kind": "3mf"}
    ).json
    with zipfile.ZipFile(io.BytesIO(client.get(taken["url"]).data)) as archive:
        model = archive.read("3D/3dmodel.model").decode()
    assert '<metadata name="LicenseTerms">Used with permission.</metadata>' in model
    assert "Source: drawn at the fair" in model


@pytest.mark.parametrize("name", [*BAD, "bomb"])
def test_bad_pictures_are_refused_and_nothing_is_stored(client, bench, name):
    data = bomb() if name == "bomb" else BAD[name]
    before = len(client.get("/api/pieces").json["pieces"])
    answer = client.post("/api/pieces/from-picture", data={"picture": (io.BytesIO(data), "art.png")})
    assert answer.status_code in (413, 422)
    assert answer.content_type == "application/problem+json"
    assert len(answer.json["detail"]) > 30
    assert "Traceback" not in answer.text
    assert len(client.get("/api/pieces").json["pieces"]) == before
    import hashlib

    assert bench.assets.get(hashlib.sha256(data).hexdigest()) is None


def test_another_picture_lies_beside_the_first_or_takes_its_place(client, begun, ring_png):
    address = f"/api/pieces/{begun['piece']['id']}/picture"
    form = {"picture": (io.BytesIO(ring_png), "again.png"), "revision": str(begun["piece"]["revision"])}
    two = client.post(address, data=form).json
    first, second = two["piece"]["document"]["pictures"]
    assert second["name"] == "again.png"
    assert first["id"] != second["id"]
    boxes = [underlay["box"] for underlay in two["flat"]["underlays"]]
    assert boxes[1][0] > boxes[0][0]
    # What was there lies where it lay, and no shapes of the two overlap.
    before = {r["id"]: r["path"] for r in begun["flat"]["regions"]}
    after = {r["id"]: r["path"] for r in two["flat"]["regions"] if r["picture"] == first["id"]}
    assert after == before
    right = max(r["box"][0] + r["box"][2] for r in two["flat"]["regions"] if r["picture"] == first["id"])
    assert min(r["box"][0] for r in two["flat"]["regions"] if r["picture"] == second["id"]) > right
    data = {
        "picture": (io.BytesIO(ring_png), "third.png"),
        "revision": str(two["piece"]["revision"]),
        "replaces": second["id"],
    }
    third = client.post(address, data=data).json
    assert [p["name"] for p in third["piece"]["document"]["pictures"]] == [first["name"], "third.png"]
    assert third["flat"]["underlays"][1]["box"] == pytest.approx(boxes[1])
    stale = {"picture": (io.BytesIO(ring_png), "late.png"), "revision": str(begun["piece"]["revision"])}
    assert client.post(address, data=stale).status_code == 409


def test_underlay_and_thumbnail(client, begun):
    piece = begun["piece"]
    underlay = client.get(f"/api/assets/{piece['document']['pictures'][0]['asset']}")
    assert underlay.content_type == "image/jpeg"
    assert "immutable" in underlay.headers["Cache-Control"]
    drawing = client.get(f"/api/pieces/{piece['id']}/picture/{piece['revision']}")
    assert drawing.content_type.startswith("image/svg+xml")
    assert drawing.text.count("<path") == 3


def test_security_headers_allow_no_outside_host(client):
    answer = client.get("/api/health")
    policy = answer.headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "http" not in policy
    assert answer.headers["X-Content-Type-Options"] == "nosniff"


def test_foreign_hosts_and_origins_are_refused(client):
    assert client.get("/api/health", headers={"Host": "example.org"}).status_code == 400
    foreign = client.post("/api/pieces", json={}, headers={"Origin": "http://example.org"})
    assert foreign.status_code == 403
    own = client.post("/api/pieces", json={}, headers={"Origin": "http://localhost"})
    assert own.status_code == 200


def test_unknown_addresses_are_problems(client):
    for address in (
        "/api/nothing",
        "/api/pieces/nobody",
        f"/api/files/{'0' * 64}",
        f"/api/assets/{'0' * 64}",
    ):
        answer = client.get(address)
        assert answer.status_code == 404
        assert answer.json["status"] == 404


def test_the_shipped_description_is_the_one_in_force(bench, client):
    """With people, who have addresses of their own; without them it is a part of it."""
    shipped = json.loads((ROOT / "frontend/src/api/openapi.json").read_text())
    app = create_app(bench, shared=Workshop(b"secret"))
    with app.test_request_context():
        assert json.loads(app.json.dumps(described(app))) == shipped
    alone = client.get("/api/openapi.json").json["paths"]
    assert alone.keys() < shipped["paths"].keys()
