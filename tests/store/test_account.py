"""Started by root, the database server runs as an account without rights, wherever that may go to its data."""

from __future__ import annotations

import os
import pwd
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from drelo.store.account import NAME, Account, account_for
from drelo.store.server import Server, create_database


@pytest.fixture
def open_folder() -> Iterator[Path]:
    """A folder that every account may enter; those of pytest are their maker's alone."""
    if os.geteuid() != 0:
        pytest.skip("only root can run a process as another account")
    with tempfile.TemporaryDirectory(prefix="drelo-test-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        yield folder


def owner_of(process: int) -> int:
    return Path(f"/proc/{process}").stat().st_uid


def test_what_root_made_is_given_to_the_account_and_kept(open_folder):
    open_folder.chmod(0o700)
    server = Server(open_folder)
    with server as address:
        assert owner_of(server.pid) == 0
        create_database(address, "drelo_kept")
    open_folder.chmod(0o755)
    server = Server(open_folder)
    with server as address:
        assert owner_of(server.pid) == pwd.getpwnam(NAME).pw_uid
        with address.connect() as connection, connection.cursor() as cursor:
            cursor.execute("SHOW DATABASES LIKE 'drelo_kept'")
            assert cursor.fetchall()


def test_a_fresh_one_is_made_as_the_account(open_folder):
    server = Server(open_folder / "data")
    with server as address:
        assert owner_of(server.pid) == pwd.getpwnam(NAME).pw_uid
        create_database(address, "drelo_new")
    assert not (open_folder / "data/database.json").exists()


def test_who_is_not_root_or_in_a_closed_folder_stays_who_they_are(tmp_path):
    tmp_path.chmod(0o700)
    account = account_for(tmp_path)
    assert account == Account()
    assert account.starting == {}
    account.own(tmp_path)
    assert tmp_path.stat().st_uid == os.geteuid()
