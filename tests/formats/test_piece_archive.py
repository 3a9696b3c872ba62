"""A piece as one open file: what is written is read, and what is broken or hostile is refused in one line."""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from typing import Any

import pytest

from drelo.core.errors import Refusal
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import Lettering
from drelo.core.piece.pictures import PlacedPicture
from drelo.formats.piece_archive import (
    MAX_FILES,
    NamedVersion,
    PieceArchive,
    assets_of,
    piece_schema,
    read_archive,
    shipped_schema,
    write_archive,
)
from drelo.words.spoken import sentence
from tests.refusals import refused

PICTURE, FONT = b"a picture's bytes", b"a font's bytes"
PICTURE_SHA, FONT_SHA = (hashlib.sha256(data).hexdigest() for data in (PICTURE, FONT))
DOCUMENT = Document(
    pictures=(PlacedPicture(id="p", asset=PICTURE_SHA, name="heron & reeds.png", width=3, height=2),),
    drawn=(
        Lettering(id="w", text="Fern", font=FONT_SHA, at=(0, 0), height=8),
        Lettering(id="v", text="M", at=(0, 0), height=8),
    ),
).model_dump(mode="json")
ASSETS = {PICTURE_SHA: (PICTURE, "image/png"), FONT_SHA: (FONT, "font/sfnt")}
ARCHIVE = PieceArchive(
    "Heron",
    DOCUMENT,
    (NamedVersion("First print", "2026-02-01T10:00:00+00:00", Document().model_dump(mode="json")),),
    ASSETS,
)


def packed(**change: Any) -> bytes:
    """The archive with some of its piece.json changed; None takes a field away."""
    with zipfile.ZipFile(io.BytesIO(write_archive(ARCHIVE, b"<svg/>"))) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    told = json.loads(files["piece.json"])
    told = {name: value for name, value in (told | change).items() if value is not None}
    files["piece.json"] = json.dumps(told).encode()
    return zipped(files)


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


def test_what_is_written_is_read():
    found = read_archive(write_archive(ARCHIVE, b"<svg/>"))
    assert (found.name, found.document, found.versions, found.assets) == (
        ARCHIVE.name,
        ARCHIVE.document,
        ARCHIVE.versions,
        ASSETS,
    )


def test_the_same_piece_gives_the_same_bytes():
    assert write_archive(ARCHIVE, b"<svg/>") == write_archive(ARCHIVE, b"<svg/>")


def test_a_person_who_opens_it_finds_their_way():
    with zipfile.ZipFile(io.BytesIO(write_archive(ARCHIVE, b"<svg/>"))) as archive:
        names = archive.namelist()
        readme = archive.read("README.txt").decode()
        schema = json.loads(archive.read("piece.schema.json"))
    assert [n for n in names if n.startswith("pictures/")] == [f"pictures/heron-reeds-{PICTURE_SHA[:12]}.png"]
    assert [n for n in names if n.startswith("fonts/")] == [f"fonts/font-{FONT_SHA[:12]}.ttf"]
    for name in names:
        assert name == "README.txt" or name in readme
    assert "First print" in readme
    assert schema["title"] == "A piece of Drelo"


def test_only_fonts_and_pictures_of_the_maker_are_named():
    assert set(assets_of(DOCUMENT)) == {PICTURE_SHA, FONT_SHA}


def test_the_shipped_schema_is_the_one_in_force():
    assert json.loads(shipped_schema().read_text()) == piece_schema()


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"version": 2}, "newer Drelo"),
        ({"kind": "something else"}, "not a Drelo piece"),
        ({"name": ""}, "name"),
        ({"document": None}, "document"),
        ({"document": []}, "document"),
        ({"files": {}}, "not in the archive"),
        ({"files": {"../..": {"path": "x", "media_type": "y"}}}, "files"),
        ({"files": {PICTURE_SHA: {"path": "../../etc/passwd", "media_type": "image/png"}}}, "is missing"),
        ({"files": {PICTURE_SHA: {"path": "README.txt", "media_type": "image/png"}}}, "has changed"),
        ({"versions": [{"name": "x", "made": "yesterday", "document": {}}]}, "made"),
        ({"surprise": 1}, "surprise"),
    ],
)
def test_what_is_damaged_or_newer_is_refused_in_one_line(change, says):
    with refused(says) as told:
        read_archive(packed(**change))
    assert "\n" not in sentence(told.value)


def test_a_zip_without_a_piece_says_so_by_its_field():
    with pytest.raises(Refusal) as told:
        read_archive(zipped({"recipe.json": b"{}"}))
    assert told.value.field == "kind"


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"PK",
        b"PK\x03\x04" + bytes(100),
        zipped({"piece.json": b"[" * 100_000}),
        zipped({"piece.json": b"\xff\xfe"}),
        zipped({f"{i}.png": b"" for i in range(MAX_FILES + 1)} | {"piece.json": b"{}"}),
        write_archive(ARCHIVE, b"<svg/>")[:-40],
    ],
)
def test_what_is_no_archive_is_refused(data):
    with pytest.raises(Refusal):
        read_archive(data)
