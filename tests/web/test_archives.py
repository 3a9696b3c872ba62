"""Pieces out as archives and in again over HTTP, and on the command line."""

from __future__ import annotations

import hashlib
import io
import json
import os
import subprocess
import sys
import zipfile

import pytest

from drelo.formats.fonts import shipped_font
from tests.conftest import ROOT
from tests.core.test_picture import BAD, bomb

GOLDEN = ROOT / "tests/golden/archive-1.zip"


def post(client, address: str, **body) -> dict:
    answer = client.post(address, json=body)
    assert answer.status_code == 200, answer.json
    return answer.json


def edit(client, bench: dict, **change) -> dict:
    piece = bench["piece"]
    return post(client, f"/api/pieces/{piece['id']}/edits", revision=piece["revision"], edit=change)


@pytest.fixture
def worked_on(client, ring_png) -> dict:
    """A piece with a picture, words in a font of its own, and a version that has a name."""
    answer = client.post("/api/pieces/from-picture", data={"picture": (io.BytesIO(ring_png), "ring.png")})
    bench = answer.json
    at = f"/api/pieces/{bench['piece']['id']}"
    font = client.post(f"{at}/font", data={"font": (io.BytesIO(shipped_font("sans")), "own.ttf")}).json["id"]
    words = {"kind": "lettering", "id": "w", "text": "Fern", "font": font, "at": [40, 10], "height": 8}
    bench = edit(client, bench, do="put-drawn", things=[words])
    client.put(f"{at}/versions/{bench['piece']['revision']}/name", json={"name": "With words"})
    return edit(client, bench, do="set-base", thickness=3.4)


def exported(client, piece: str) -> bytes:
    made = post(client, f"/api/pieces/{piece}/archive")
    assert made["name"].endswith("-piece.zip")
    data = client.get(made["url"]).data
    assert len(data) == made["bytes"]
    return data


def imported(client, data: bytes):
    return client.post("/api/pieces/from-archive", data={"file": (io.BytesIO(data), "piece.zip")})


def solid(client, bench: dict) -> bytes:
    """The 3MF of a piece, made anew."""
    client.post("/api/storage/empty", json={"what": "derived"})
    piece = bench["piece"]
    body = {"revision": piece["revision"], "kind": "3mf"}
    return client.get(post(client, f"/api/pieces/{piece['id']}/take-away", **body)["url"]).data


def test_a_piece_comes_back_whole_and_makes_the_same_solid_to_the_byte(client, worked_on):
    before = solid(client, worked_on)
    data = exported(client, worked_on["piece"]["id"])
    answer = imported(client, data)
    assert answer.status_code == 200
    back = answer.json
    assert back["piece"]["id"] != worked_on["piece"]["id"]
    assert back["piece"]["name"] == worked_on["piece"]["name"]
    assert back["piece"]["document"] == worked_on["piece"]["document"]
    assert solid(client, back) == before
    lines = client.get(f"/api/pieces/{back['piece']['id']}/versions").json["lines"]
    assert [line["steps"][0]["name"] for line in lines] == [None, "With words"]
    undone = post(client, f"/api/pieces/{back['piece']['id']}/undo", revision=back["piece"]["revision"])
    assert undone["piece"]["document"]["base"]["thickness"] == 2.0
    # Redone and out again, the archive holds the same to the byte.
    post(client, f"/api/pieces/{back['piece']['id']}/redo", revision=undone["piece"]["revision"])
    assert exported(client, back["piece"]["id"]) == data


def test_what_an_older_drelo_wrote_opens(client):
    back = imported(client, GOLDEN.read_bytes())
    assert back.status_code == 200, back.json
    told = json.loads(zipfile.ZipFile(GOLDEN).read("piece.json"))
    assert back.json["piece"]["name"] == told["name"]
    assert [r["name"] for r in back.json["flat"]["regions"] if r["height"] == 2.4] == ["Leaf"]
    lines = client.get(f"/api/pieces/{back.json['piece']['id']}/versions").json["lines"]
    assert lines[-1]["steps"][-1]["made"].startswith("2026-11-")


def repacked(data: bytes, change) -> bytes:
    """An archive with its piece.json and files changed by a function."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    told = json.loads(files["piece.json"])
    change(told, files)
    files["piece.json"] = json.dumps(told).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            archive.writestr(name, content)
    return out.getvalue()


def in_place_of_the_picture(replacement: bytes):
    """Other bytes for the piece's picture, under their own right name."""

    def change(told, files):
        old = told["document"]["pictures"][0]["asset"]
        new = hashlib.sha256(replacement).hexdigest()
        entry = told["files"].pop(old)
        told["files"][new] = entry
        files[entry["path"]] = replacement
        for document in (told["document"], *(v["document"] for v in told["versions"])):
            for picture in document["pictures"]:
                picture["asset"] = new

    return change


def as_font(told, files):
    """A picture's bytes that call themselves a font."""
    for entry in told["files"].values():
        entry["media_type"] = "font/sfnt"


def tall_picture(told, files):
    told["document"]["pictures"][0]["height"] = 77


def endless_number(told, files):
    told["document"]["base"]["thickness"] = 1e400


def deep(told, files):
    told["document"]["form"] = [[]]


@pytest.mark.parametrize(
    "change",
    [
        in_place_of_the_picture(bomb()),
        *(in_place_of_the_picture(data) for data in BAD.values()),
        as_font,
        tall_picture,
        endless_number,
        deep,
    ],
)
def test_hostile_archives_are_refused_and_leave_nothing(client, worked_on, change):
    data = repacked(exported(client, worked_on["piece"]["id"]), change)
    before = client.get("/api/pieces").json
    answer = imported(client, data)
    assert answer.status_code == 422
    assert answer.json["detail"]
    assert client.get("/api/pieces").json == before


def test_a_zip_of_something_else_is_told_by_its_field(client):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("recipe.json", "{}")
    answer = imported(client, out.getvalue())
    assert (answer.status_code, answer.json["field"]) == (422, "kind")


def test_pieces_go_out_and_in_on_the_command_line(tmp_path, client, worked_on):
    """From one data folder to another."""
    archive = tmp_path / "in.zip"
    archive.write_bytes(exported(client, worked_on["piece"]["id"]))

    def piece(*words: str) -> subprocess.CompletedProcess[str]:
        env = {**os.environ, "DRELO_DATA": str(tmp_path / "data")}
        call = [sys.executable, "-m", "drelo.cli", "piece", *words]
        return subprocess.run(call, env=env, capture_output=True, text=True, check=False)

    came = piece("import", str(archive))
    assert came.returncode == 0, came.stderr
    key = came.stdout.split()[0]
    assert piece("list").stdout == f"{key}  {worked_on['piece']['name']}\n"
    out = tmp_path / "out.zip"
    assert piece("export", worked_on["piece"]["name"].lower(), "-o", str(out)).returncode == 0
    told, back = (json.loads(zipfile.ZipFile(p).read("piece.json")) for p in (archive, out))
    assert back == told
    wrong = piece("export", "nothing", "-o", str(tmp_path / "no.zip"))
    assert (wrong.returncode, wrong.stderr.count("\n")) == (1, 1)
    assert not (tmp_path / "no.zip").exists()
