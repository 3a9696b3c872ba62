"""Parts of a running application are killed, held up and flooded: it goes on, and loses nothing."""

from __future__ import annotations

import json
import os
import re
import signal
import socket
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from tests.cli.test_start import free_port, pieces, rename, running, servers
from tests.processes import children, words


def workers(parent: int) -> list[int]:
    return [n for n in children(parent) if "multiprocessing.spawn" in words(n)]


def soon(what: Callable[[], object], seconds: float = 10.0) -> float:
    """How long it takes until something holds, s; fails where it does not."""
    begin = time.monotonic()
    while True:
        try:
            if what():
                return time.monotonic() - begin
        except (OSError, urllib.error.URLError):
            pass
        assert time.monotonic() - begin < seconds
        time.sleep(0.05)


def asked(port: int, path: str, body: bytes | None = None, method: str | None = None) -> tuple[int, dict]:
    """Status and body of an answer; a 503 is asked again, as the page does."""
    until = time.monotonic() + 30
    while True:
        request = urllib.request.Request(
            f"http://127.0.0.1:{port}{path}", body, {"Content-Type": "application/json"}, method=method
        )
        try:
            with urllib.request.urlopen(request, timeout=30) as answer:
                return answer.status, json.loads(answer.read() or b"{}")
        except urllib.error.HTTPError as error:
            pause = error.headers.get("Retry-After")
            if error.code != 503 or pause is None or time.monotonic() > until:
                return error.code, json.load(error)
            time.sleep(float(pause))


class App:
    def __init__(self, process: subprocess.Popen[str], port: int, folder: Path) -> None:
        self.process, self.port, self.folder = process, port, folder

    def ready(self) -> bool:
        return asked(self.port, "/api/ready")[1]["ready"]

    def edit(self, piece: dict, height: float) -> tuple[int, dict]:
        edit = {"do": "set-usual-height", "height": height}
        body = {"revision": piece["revision"], "edit": edit}
        return asked(self.port, f"/api/pieces/{piece['id']}/edits", json.dumps(body).encode())


@pytest.fixture(scope="module")
def app(tmp_path_factory) -> Iterator[App]:
    folder, port = tmp_path_factory.mktemp("faults") / "data", free_port()
    with running(folder, port) as (process, lines):
        assert "is running at" in lines[-1]
        found = App(process, port, folder)
        soon(lambda: len(workers(process.pid)) >= 2 and found.ready(), 60)
        yield found


def a_piece(app: App) -> str:
    return next(p["id"] for p in pieces(app.port) if p["name"] == "Pear coaster")


def test_idle_workers_that_are_killed_are_there_again(app):
    piece = a_piece(app)
    assert asked(app.port, f"/api/pieces/{piece}")[0] == 200
    for number in workers(app.process.pid):
        os.kill(number, signal.SIGKILL)
    begin = time.monotonic()
    status, answer = asked(app.port, f"/api/pieces/{piece}")
    assert status == 200, answer
    assert time.monotonic() - begin < 30
    soon(app.ready)


def test_a_database_that_is_killed_is_there_again_and_loses_nothing(app):
    piece = a_piece(app)
    rename(app.port, piece, "Pear coaster")
    (server,) = servers(app.folder)
    os.kill(int(server), signal.SIGKILL)
    status, answer = asked(app.port, f"/api/pieces/{piece}")
    assert (status, answer["piece"]["name"]) == (200, "Pear coaster")
    assert soon(app.ready) < 10
    assert servers(app.folder) != [server]


def test_while_the_database_is_away_it_is_said_in_words(app):
    (server,) = servers(app.folder)
    os.kill(int(server), signal.SIGKILL)
    soon(lambda: not words(int(server)))
    with pytest.raises(urllib.error.HTTPError) as refused:
        urllib.request.urlopen(f"http://127.0.0.1:{app.port}/api/pieces", timeout=10)
    assert refused.value.code == 503
    assert refused.value.headers["Retry-After"]
    assert "database" in json.load(refused.value)["detail"]
    soon(app.ready)


def serving(app: App) -> int:
    """The process that answers."""
    (found,) = (n for n in children(app.process.pid) if "drelo.cli.serving" in words(n))
    return found


def test_a_web_process_that_is_killed_is_there_again_with_its_workers(app):
    piece, killed = a_piece(app), serving(app)
    (server,) = servers(app.folder)
    rename(app.port, piece, "Pear coaster")
    below = children(killed)
    os.kill(killed, signal.SIGKILL)
    soon(lambda: not any(words(n) for n in below))
    soon(lambda: app.ready() and len(workers(app.process.pid)) >= 2, 60)
    assert serving(app) != killed
    assert servers(app.folder) == [server]
    status, answer = asked(app.port, f"/api/pieces/{piece}")
    assert (status, answer["piece"]["name"]) == (200, "Pear coaster")


def rights(number: int) -> set[str]:
    """The capabilities that the threads of a process have, as masks."""
    tasks = Path(f"/proc/{number}/task").glob("*/status")
    return {re.search(r"^CapEff:\s*(\w+)", task.read_text(), re.MULTILINE)[1] for task in tasks}


def test_what_answers_and_works_has_none_of_roots_rights(app):
    ports_below_1024 = f"{1 << 10:016x}"
    web = serving(app)
    assert rights(web) <= {ports_below_1024, f"{0:016x}"}
    for number in workers(app.process.pid):
        assert rights(number) == {f"{0:016x}"}
    (printer,) = (n for n in children(web) if "drelo.device" in words(n))
    assert rights(printer) <= {ports_below_1024, f"{0:016x}"}


def test_half_sent_requests_hold_nobody_up(app):
    held = []
    try:
        for n in range(200):
            one = socket.create_connection(("127.0.0.1", app.port))
            head = b"POST /api/pieces HTTP/1.1\r\nHost: 127.0.0.1\r\n"
            one.sendall(head if n % 2 else head + b"Content-Type: application/json\r\nContent-Length: 900\r\n\r\n{")
            held.append(one)
        begin = time.monotonic()
        for _ in range(5):
            assert pieces(app.port)
        assert time.monotonic() - begin < 15
    finally:
        for one in held:
            one.close()


@pytest.mark.parametrize("chunked", [False, True])
def test_a_body_that_is_too_large_is_turned_away_before_it_is_kept(app, chunked):
    one = socket.create_connection(("127.0.0.1", app.port), timeout=20)
    size = 64 * 2**20
    head = b"POST /api/pieces HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\n"
    head += b"Transfer-Encoding: chunked\r\n\r\n" if chunked else b"Content-Length: %d\r\n\r\n" % size
    sent = 0
    with one:
        one.sendall(head)
        try:
            while sent < size:
                block = b" " * 2**16
                one.sendall(b"%x\r\n%s\r\n" % (len(block), block) if chunked else block)
                sent += len(block)
        except OSError:
            pass
        try:
            answer = one.recv(200)
        except OSError:
            answer = b""
    assert sent < size / 2 or answer.startswith(b"HTTP/1.1 413")
    assert answer == b"" or b" 413 " in answer
    assert asked(app.port, "/api/health")[0] == 200


def test_a_page_that_leaves_takes_its_work_with_it(app):
    for _ in range(20):
        one = socket.create_connection(("127.0.0.1", app.port))
        one.sendall(f"GET /api/pieces/{a_piece(app)} HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n".encode())
        one.close()
    begin = time.monotonic()
    assert asked(app.port, "/api/health")[0] == 200
    assert time.monotonic() - begin < 15
    soon(lambda: asked(app.port, "/api/ready")[1]["waiting"] == 0)


def test_everything_ends_with_the_main_process_and_starts_again(tmp_path):
    folder, port = tmp_path / "data", free_port()
    # What others left on this computer is none of ours.
    others = set(Path("/tmp").glob("drelo-db-*-*"))
    with running(folder, port) as (process, _):
        app = App(process, port, folder)
        soon(app.ready, 60)
        piece = a_piece(app)
        rename(port, piece, "Kept")
        below = children(process.pid)
        assert workers(process.pid)
        os.kill(process.pid, signal.SIGKILL)
        process.wait(10)
        soon(lambda: not any(Path(f"/proc/{n}").exists() for n in below) and not servers(folder), 30)
    begin = time.monotonic()
    with running(folder, port) as (process, _):
        assert {p["id"]: p["name"] for p in pieces(port)}[piece] == "Kept"
        assert time.monotonic() - begin < 60
        # What the killed one left, its socket and its password, is gone.
        mine = set(Path("/tmp").glob("drelo-db-*-*")) - others
        assert [p for p in mine if not Path(f"/proc/{p.name.split('-')[2]}").exists()] == []
