"""Keepers and forgotten passwords on the command line, and a shared start."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import urllib.error
import urllib.request

import pytest

from tests.cli.test_start import free_port, running

PASSWORD = "beetroot lantern quartz"


def people(folder, *words: str, typed: str = "") -> subprocess.CompletedProcess[str]:
    call = [sys.executable, "-m", "drelo.cli", "people", *words]
    env = {**os.environ, "DRELO_DATA": str(folder)}
    return subprocess.run(call, env=env, input=typed, capture_output=True, text=True, check=False)


def test_keepers_are_made_and_listed_and_weak_passwords_refused(tmp_path):
    folder = tmp_path / "data"
    weak = people(folder, "keeper", "kay", typed="kay\n")
    assert (weak.returncode, weak.stderr.count("\n")) == (1, 1)
    assert people(folder, "keeper", "Kay!", typed=f"{PASSWORD}\n").returncode == 1
    assert people(folder, "keeper", "kay", "--title", "Kay M.", typed=f"{PASSWORD}\n").returncode == 0
    again = people(folder, "keeper", "kay", typed=f"{PASSWORD}\n")
    assert "taken" in again.stderr
    assert people(folder, "list").stdout.split() == ["kay", "keeper", "Kay", "M."]
    assert people(folder, "password", "kay", typed="quartz lantern beetroot\n").returncode == 0
    assert "Nobody signs in as" in people(folder, "password", "nobody", typed=f"{PASSWORD}\n").stderr
    assert PASSWORD not in str([p.read_bytes() for p in folder.rglob("*.log")])


def test_a_shared_workshop_wants_a_keeper_first_and_asks_who_is_there(tmp_path):
    port, folder = free_port(), tmp_path / "data"
    with running(folder, port, "--shared", "--empty") as (process, lines):
        assert process.wait(60) == 1
        assert any("./drelo people keeper NAME" in line for line in lines)
    assert people(folder, "keeper", "kay", typed=f"{PASSWORD}\n").returncode == 0
    with running(folder, port, "--shared", "--empty") as (process, lines):
        assert any("is running at" in line for line in lines), lines
        with pytest.raises(urllib.error.HTTPError) as refused:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/api/pieces")
        assert refused.value.code == 401
        me = json.load(urllib.request.urlopen(f"http://127.0.0.1:{port}/api/me"))
        assert me["shared"]
    assert oct((folder / "workshop-secret").stat().st_mode)[-3:] == "600"


def test_it_listens_to_others_only_where_people_sign_in(tmp_path, monkeypatch):
    monkeypatch.setenv("DRELO_LISTEN", "0.0.0.0")
    with running(tmp_path / "data", free_port(), "--empty") as (process, lines):
        assert process.wait(30) == 1
        assert any("--shared" in line for line in lines)
    monkeypatch.setenv("DRELO_LISTEN", "everywhere")
    with running(tmp_path / "data", free_port(), "--empty") as (process, lines):
        assert process.wait(30) == 1
        assert any("DRELO_LISTEN cannot be" in line for line in lines)


def test_beside_a_running_workshop_backups_are_taken_and_people_and_pieces_seen(tmp_path):
    port, folder = free_port(), tmp_path / "data"
    assert people(folder, "keeper", "kay", typed=f"{PASSWORD}\n").returncode == 0
    with running(folder, port, "--shared") as (process, lines):
        assert any("is running at" in line for line in lines), lines
        assert oct((folder / "database.json").stat().st_mode)[-3:] == "600"
        env = {**os.environ, "DRELO_DATA": str(folder)}

        def command(*words: str) -> str:
            call = [sys.executable, "-m", "drelo.cli", *words]
            done = subprocess.run(call, env=env, capture_output=True, text=True, check=False)
            assert done.returncode == 0, done.stderr
            return done.stdout

        assert "kay" in command("people", "list")
        assert "Pear coaster" in command("piece", "list")
        command("piece", "export", "Pear coaster", "-o", str(tmp_path / "pear.zip"))
        command("piece", "import", str(tmp_path / "pear.zip"))
        assert command("piece", "list").count("Pear coaster") == 2
        command("backup", str(tmp_path / "all.zip"))
        command("verify", str(tmp_path / "all.zip"))
        assert process.poll() is None
        health = json.load(urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health"))
        assert health["status"] == "ok"
    assert not (folder / "database.json").exists()
