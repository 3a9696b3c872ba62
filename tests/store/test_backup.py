"""Backups hold everything, say so, and come back; a data folder of another version is not touched."""

from __future__ import annotations

import json
import os
import zipfile

import pytest
from sqlalchemy import text

from drelo.cli.__main__ import main
from drelo.core.piece.document import Document
from drelo.store import database as tables
from drelo.store.backup import MANIFEST, SQL, back_up, restore, verify
from drelo.store.blobs import Assets, DerivedBytes
from drelo.store.database import engine_for, migrate, revision_of, sessions
from drelo.store.pieces import Pieces
from drelo.store.server import ServerError, create_database, drop_database
from tests.refusals import refused

PICTURE = bytes(range(256)) * 40


@pytest.fixture
def fresh(database):
    """Makes empty databases beside that of the run."""
    made = []

    def make(name: str) -> str:
        made.append(f"drelo_test_{os.getpid()}_{name}")
        create_database(database, made[-1])
        return made[-1]

    yield make
    for name in made:
        drop_database(database, name)


def filled(address, name):
    engine = engine_for(address.url(name))
    migrate(engine)
    maker = sessions(engine)
    Assets(maker).put(PICTURE, "image/png")
    DerivedBytes(maker).put("d" * 64, b"x" * 500_000, "model/stl")
    keys = [Pieces(maker).create(f"Piece {n} – Ä", Document()).id for n in range(30)]
    engine.dispose()
    return keys


def test_what_was_backed_up_comes_back(database, fresh, tmp_path):
    one, other = fresh("one"), fresh("other")
    keys = filled(database, one)
    out = tmp_path / "backup.zip"
    made = back_up(database, one, out)
    assert verify(out) == made
    # What can be made again is left out.
    assert made.bytes < 200_000
    restore(database, other, out)
    engine = engine_for(database.url(other))
    migrate(engine)
    maker = sessions(engine)
    assert sorted(c.id for c in Pieces(maker).all()) == sorted(keys)
    assert Pieces(maker).get(keys[0]).name == "Piece 0 – Ä"
    with engine.connect() as connection:
        assert connection.execute(text("select data from asset")).scalar_one() == PICTURE
        assert connection.execute(text("select count(*) from derived")).scalar_one() == 0
    engine.dispose()
    assert [p.name for p in tmp_path.iterdir()] == ["backup.zip"]


def test_a_backup_that_fails_leaves_nothing(database, tmp_path):
    with pytest.raises(ServerError, match="mariadb-dump failed"):
        back_up(database, "drelo_not_there", tmp_path / "backup.zip")
    assert not list(tmp_path.iterdir())


def test_what_is_no_backup_or_damaged_is_refused(database, fresh, tmp_path):
    name = fresh("three")
    filled(database, name)
    out = tmp_path / "backup.zip"
    back_up(database, name, out)
    with zipfile.ZipFile(out) as archive:
        sql, told = archive.read(SQL), json.loads(archive.read(MANIFEST))

    def changed(sql: bytes, told: object) -> None:
        with zipfile.ZipFile(out, "w") as archive:
            archive.writestr(SQL, sql)
            archive.writestr(MANIFEST, json.dumps(told))

    for spoil, says in (
        (lambda: changed(sql[:-100], told), "damaged"),
        (lambda: changed(sql, {**told, "version": 99}), "newer Drelo"),
        (lambda: changed(sql, {"kind": "else"}), "not a Drelo backup"),
        (lambda: out.write_bytes(b"PK nonsense"), "not a Drelo backup"),
        (lambda: out.unlink(), "cannot be read"),
    ):
        spoil()
        with refused(says):
            verify(out)


def test_tables_of_a_newer_version_are_not_touched(database, fresh):
    name = fresh("newer")
    engine = engine_for(database.url(name))
    migrate(engine)
    with engine.begin() as connection:
        connection.execute(text("update alembic_version set version_num = '9999'"))
    with pytest.raises(ServerError, match="newer Drelo"):
        migrate(engine)
    assert revision_of(engine) == "9999"
    engine.dispose()


def test_a_broken_migration_is_one_line(database, fresh, monkeypatch):
    name = fresh("broken")
    engine = engine_for(database.url(name))

    def upgrade(config, target):
        config.attributes["connection"].execute(text("alter table nothing add x int"))

    monkeypatch.setattr(tables.command, "upgrade", upgrade)
    with pytest.raises(ServerError, match="could not be upgraded") as refused:
        migrate(engine)
    assert "\n" not in str(refused.value)
    engine.dispose()


def test_the_commands_take_a_folder_to_another_one(tmp_path, monkeypatch, capsys):
    out = tmp_path / "all.zip"
    monkeypatch.setenv("DRELO_DATA", str(tmp_path / "one"))
    assert main(["backup", str(out)]) == 0
    assert main(["verify", str(out)]) == 0
    assert "whole" in capsys.readouterr().out
    assert main(["restore", str(out)]) == 1
    assert "nothing was touched" in capsys.readouterr().err
    monkeypatch.setenv("DRELO_DATA", str(tmp_path / "two"))
    assert main(["restore", str(out)]) == 0
    assert (tmp_path / "two" / "mariadb" / "drelo").is_dir()
