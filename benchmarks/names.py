"""A thousand names as the page makes them, by kind of file and fineness: python -m benchmarks.names [NAMES [FINENESS]]

How long it takes, how large what is taken away is, and the most memory that the server and each worker held meanwhile.
"""

from __future__ import annotations

import json
import os
import sys
import tempfile
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from benchmarks.server import served

NAMES = 1000
PIECE = "Plot Fourteen"
FINENESS = {"draft": 0.05, "normal": 0.008, "fine": 0.002}
BED, SPACING = (220.0, 220.0), 3.0
LOOK = 0.05


def main() -> int:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else NAMES
    print(f"{count} names of {PIECE!r}   made in   packed in   taken in   size      server    a worker")
    with tempfile.TemporaryDirectory() as folder, served(Path(folder)) as application:
        page = _Page(application.address)
        for fineness, within in FINENESS.items():
            for packing in ("stl", "beds") if fineness in (sys.argv[2:] or FINENESS) else ():
                _row(page, fineness, within, packing, count)
    return 0


class _Page:
    """Asks as the page does."""

    def __init__(self, address: str) -> None:
        self.address = address
        listed = self.ask("/api/pieces")["pieces"]
        self.piece = next(p["id"] for p in listed if p["name"] == PIECE)
        opened = self.ask(f"/api/pieces/{self.piece}")["piece"]
        self.revision = opened["revision"]

    def ask(self, path: str, body: dict[str, Any] | None = None) -> Any:
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(self.address + path, data, {"Content-Type": "application/json"})
        with urllib.request.urlopen(request) as answer:
            return json.load(answer)

    def take(self, path: str) -> int:
        """How many bytes come."""
        size = 0
        with urllib.request.urlopen(self.address + path) as answer:
            while block := answer.read(2**20):
                size += len(block)
        return size


def _row(page: _Page, fineness: str, within: float, packing: str, count: int) -> None:
    many = f"/api/pieces/{page.piece}/many"
    with _memory() as most:
        begin = time.perf_counter()
        made = []
        for number in range(count):
            name = f"{fineness} {packing} {number}"
            body = {"revision": page.revision, "name": name, "packing": packing, "within": within, "among": count}
            made.append({"key": page.ask(f"{many}/one", body)["key"], "name": name})
        done = time.perf_counter()
        if packing == "beds":
            laid = page.ask(f"{many}/beds", {"made": made, "bed": BED, "spacing": SPACING})["beds"]
            made = [
                {"key": page.ask(f"{many}/bed", {"number": i, "laid": bed})["key"], "name": f"bed-{i}"}
                for i, bed in enumerate(laid, 1)
            ]
        packed = page.ask(f"{many}/pack", {"made": made, "suffix": "stl" if packing == "stl" else "3mf"})
        ready = time.perf_counter()
        size = page.take(packed["url"])
        taken = time.perf_counter()
    times = f"{done - begin:6.0f} s   {ready - done:6.1f} s   {taken - ready:6.1f} s"
    held = f"{most[0] / 2**20:5.0f} MB   {most[1] / 2**20:5.0f} MB"
    print(f"  {fineness:7s} {packing:5s}              {times}   {size / 1e6:5.0f} MB   {held}", flush=True)


@contextmanager
def _memory() -> Iterator[list[int]]:
    """The most bytes that this process, which serves, and any below it hold while the context lasts."""
    most = [0, 0]
    ended = threading.Event()

    def watch() -> None:
        while not ended.wait(LOOK):
            most[0] = max(most[0], _held(os.getpid()))
            most[1] = max(most[1], *(_held(number) for number in _below(os.getpid())), 0)

    watching = threading.Thread(target=watch, daemon=True)
    watching.start()
    try:
        yield most
    finally:
        ended.set()
        watching.join()


def _held(process: int) -> int:
    try:
        with open(f"/proc/{process}/statm", "rb") as file:
            return int(file.read().split()[1]) * os.sysconf("SC_PAGESIZE")
    except OSError:
        return 0


def _below(process: int) -> list[int]:
    found = []
    for task in Path(f"/proc/{process}/task").iterdir():
        for number in (task / "children").read_text().split():
            if "mariadbd" not in Path(f"/proc/{number}/comm").read_text():
                found.append(int(number))
    return found


if __name__ == "__main__":
    sys.exit(main())
