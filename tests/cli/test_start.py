"""`./drelo start` as a maker runs it."""

import json
import os
import signal
import socket
import subprocess
import time
import urllib.request
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, HTTPServer
from ipaddress import ip_address
from threading import Event, Thread

import pytest

from drelo.cli import serving
from tests.conftest import ROOT

START_SECONDS = 90


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


@contextmanager
def running(folder, port: int, *options: str):
    process = subprocess.Popen(
        [str(ROOT / "drelo"), "start", "--port", str(port), *options],
        env={**os.environ, "DRELO_DATA": str(folder)},
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        start_new_session=True,
    )
    lines = []
    until = time.monotonic() + START_SECONDS
    try:
        while time.monotonic() < until:
            line = process.stdout.readline()
            if not line:
                break
            lines.append(line.strip())
            if "is running at" in line:
                break
        yield process, lines
    finally:
        if process.poll() is None:
            os.killpg(process.pid, signal.SIGINT)
        # A database that waits for room on a full disk is ended after half a minute.
        process.wait(60)


def pieces(port: int) -> list[dict]:
    with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/pieces") as answer:
        return json.load(answer)["pieces"]


def rename(port: int, key: str, name: str) -> None:
    request = urllib.request.Request(
        f"http://127.0.0.1:{port}/api/pieces/{key}",
        json.dumps({"name": name}).encode(),
        {"Content-Type": "application/json"},
        method="PATCH",
    )
    urllib.request.urlopen(request).close()


def servers(folder) -> list[str]:
    found = []
    for entry in os.scandir("/proc"):
        try:
            with open(f"/proc/{entry.name}/cmdline", "rb") as file:
                words = file.read().decode(errors="replace")
        except (OSError, NotADirectoryError):
            continue
        if entry.name.isdigit() and f"--datadir={folder}" in words:
            found.append(entry.name)
    return found


def test_start_seeds_once_keeps_changes_and_ends_what_it_started(tmp_path):
    port = free_port()
    with running(tmp_path / "data", port) as (_, lines):
        assert lines[-1].startswith(f"Drelo is running at http://127.0.0.1:{port}")
        listed = {p["name"]: p["id"] for p in pieces(port)}
        assert {"Pear coaster", "Society crest"} <= set(listed)
        rename(port, listed["Pear coaster"], "My own pear")
        delete = urllib.request.Request(
            f"http://127.0.0.1:{port}/api/pieces/{listed['Society crest']}", method="DELETE"
        )
        urllib.request.urlopen(delete).close()
        assert servers(tmp_path)
    assert not servers(tmp_path)
    with running(tmp_path / "data", port) as (_, _):
        names = {p["name"] for p in pieces(port)}
        assert "My own pear" in names
        assert "Pear coaster" not in names
        assert "Society crest" not in names


def test_two_copies_do_not_disturb_each_other(tmp_path):
    one, other = free_port(), free_port()
    with running(tmp_path / "one", one, "--empty"), running(tmp_path / "other", other, "--empty"):
        assert pieces(one) == pieces(other) == []
        request = urllib.request.Request(
            f"http://127.0.0.1:{one}/api/pieces", b"{}", {"Content-Type": "application/json"}
        )
        urllib.request.urlopen(request).close()
        assert len(pieces(one)) == 1
        assert pieces(other) == []


def test_a_data_folder_or_port_in_use_is_said_at_once(tmp_path):
    port = free_port()
    with running(tmp_path / "data", port, "--empty"):
        with running(tmp_path / "data", free_port()) as (process, lines):
            assert process.wait(20) == 1
            assert any("Another Drelo is using the data folder" in line for line in lines)
        with running(tmp_path / "else", port) as (process, lines):
            assert process.wait(20) == 1
            assert any(f"Port {port} cannot be used" in line for line in lines)
        assert pieces(port) == []


@pytest.mark.parametrize("word", ["", "fly"])
def test_the_launcher_knows_its_words(word):
    done = subprocess.run([str(ROOT / "drelo"), *word.split()], capture_output=True, text=True, check=False)
    assert done.returncode == 2
    assert "usage: ./drelo" in done.stderr


def commands() -> list[str]:
    """Every command that the launcher lists."""
    listed = subprocess.run([str(ROOT / "drelo"), "--help"], capture_output=True, text=True, check=True).stdout
    return [line.split()[0] for line in listed.splitlines() if line.startswith("  ")]


@pytest.mark.parametrize("command", [c for c in commands() if c != "test"])
def test_every_command_that_is_listed_is_there(command):
    done = subprocess.run([str(ROOT / "drelo"), command, "--help"], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert f"usage: drelo {command}" in done.stdout


def test_a_start_that_takes_long_is_still_announced_and_gets_its_workers(monkeypatch, capfd):
    """On a slow machine the demo alone may take longer than an answer may."""
    monkeypatch.setattr(serving, "ANSWER_SECONDS", 0.1)
    port, warmed = free_port(), Event()

    class Late(BaseHTTPRequestHandler):
        def do_GET(self):
            self.send_response(200)
            self.end_headers()

    class Workers:
        def warm(self):
            warmed.set()

    Thread(target=serving._announce, args=(ip_address("127.0.0.1"), port, Workers()), daemon=True).start()
    time.sleep(0.5)
    with HTTPServer(("127.0.0.1", port), Late) as server:
        Thread(target=server.serve_forever, daemon=True).start()
        assert warmed.wait(20)
        server.shutdown()
    told = capfd.readouterr()
    assert "no answer on its own address yet" in told.err
    assert f"Drelo is running at http://127.0.0.1:{port}" in told.out
