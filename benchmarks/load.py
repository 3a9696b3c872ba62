"""Many makers at once on one machine: python -m benchmarks.load [--makers 50] [--seconds 30] [--noisy]

Each maker has a copy of one of the demo's pieces, changes a height about once a second, and looks at the solid; a 503
is asked again as the page does, and its wait counts. --noisy: one more maker brings in a noisy picture of 2500 px.
"""

from __future__ import annotations

import argparse
import http.client
import io
import json
import random
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import numpy as np
from PIL import Image

ROOT = Path(__file__).resolve().parents[1]
THOUGHT = 1.0


@contextmanager
def started() -> Iterator[tuple[int, int]]:
    """Port and process number of an application of its own."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    with tempfile.TemporaryDirectory(prefix="drelo-load-") as folder:
        process = subprocess.Popen(
            [sys.executable, "-m", "drelo.cli", "start", "--port", str(port)],
            env={"DRELO_DATA": folder, "PATH": "/usr/bin:/bin:/usr/sbin:/sbin"},
            cwd=ROOT,
            stdout=subprocess.PIPE,
            text=True,
        )
        assert process.stdout is not None
        try:
            for line in process.stdout:
                if "is running at" in line:
                    break
            Maker(port).wait_until_ready()
            yield port, process.pid
        finally:
            process.terminate()
            process.wait(60)


class Maker:
    """One browser: a connection that stays, and a piece."""

    def __init__(self, port: int) -> None:
        self._connection = http.client.HTTPConnection("127.0.0.1", port, timeout=120)
        self.answers: Counter[int] = Counter()

    def ask(self, method: str, path: str, body: object = None) -> dict:
        data = None if body is None else json.dumps(body)
        while True:
            answer = self._sent(method, path, data)
            text = answer.read()
            self.answers[answer.status] += 1
            pause = answer.headers.get("Retry-After")
            if answer.status != 503 or pause is None:
                return json.loads(text) if text else {}
            time.sleep(float(pause))

    def _sent(self, method: str, path: str, data: str | None = None) -> http.client.HTTPResponse:
        """An answer; like a browser, it opens a connection anew that was closed while nothing was said on it."""
        headers = {"Content-Type": "application/json"}
        try:
            self._connection.request(method, path, data, headers)
            return self._connection.getresponse()
        except ConnectionError:
            self._connection.close()
            self._connection.request(method, path, data, headers)
            return self._connection.getresponse()

    def wait_until_ready(self) -> None:
        while not self.ask("GET", "/api/ready").get("ready"):
            time.sleep(0.1)

    def begin(self, of: str) -> None:
        """A piece of their own, opened."""
        self.piece = self.ask("POST", f"/api/pieces/{of}/duplicate")["id"]
        opened = self.ask("GET", f"/api/pieces/{self.piece}")
        self.revision = opened["piece"]["revision"]
        self.regions = opened["flat"]["regions"]
        self.acknowledged: dict[str, float] = {}

    def change(self, random_: random.Random) -> None:
        region = random_.choice(self.regions)
        height = round(random_.uniform(0.4, 3), 2)
        edit = {
            "do": "set-regions",
            "picked": [{"id": region["id"], "mark": region["mark"]}],
            "height": height,
        }
        found = self.ask(
            "POST",
            f"/api/pieces/{self.piece}/edits",
            {"revision": self.revision, "changes_only": True, "edit": edit},
        )
        self.revision = found["piece"]["revision"]
        self.acknowledged[region["id"]] = height

    def lost(self) -> int:
        """Changes that were acknowledged and are not there."""
        flat = self.ask("GET", f"/api/pieces/{self.piece}")["flat"]
        found = {region["id"]: region["height"] for region in flat["regions"]}
        return sum(found.get(region) != height for region, height in self.acknowledged.items())

    def look(self) -> None:
        """The solid of what stands now, as the page fetches it when the hand rests."""
        answer = self._sent("GET", f"/api/pieces/{self.piece}/solid/{self.revision}")
        answer.read()
        self.answers[answer.status] += 1


def work(maker: Maker, seed: int, until: float, took: list[float], failed: list[str]) -> None:
    random_ = random.Random(seed)
    time.sleep(random_.uniform(0, THOUGHT))
    while time.monotonic() < until:
        begin = time.monotonic()
        try:
            maker.change(random_)
            took.append(time.monotonic() - begin)
            maker.look()
        except (OSError, KeyError, http.client.HTTPException) as error:
            failed.append(repr(error))
        time.sleep(random_.uniform(0.5, 1.5) * THOUGHT)


def health(port: int, until: float, took: list[float]) -> None:
    maker = Maker(port)
    while time.monotonic() < until:
        begin = time.monotonic()
        maker.ask("GET", "/api/health")
        took.append(time.monotonic() - begin)
        time.sleep(0.1)


def noisy(port: int, until: float) -> None:
    """A maker who brings in a picture that takes long, again and again."""
    random_ = np.random.default_rng(3)
    y, x = np.mgrid[:2500, :2500] / 2500
    base = np.stack([x, y, 1 - x], axis=2) * 200 + 40 * np.sin(40 * x * y)[..., None]
    packed = io.BytesIO()
    Image.fromarray(np.clip(base + random_.normal(0, 30, base.shape), 0, 255).astype(np.uint8)).save(packed, "PNG")
    boundary = "drelo-load"
    head = (
        f'--{boundary}\r\nContent-Disposition: form-data; name="picture"; filename="noise.png"\r\n'
        "Content-Type: image/png\r\n\r\n"
    )
    body = head.encode() + packed.getvalue() + f"\r\n--{boundary}--\r\n".encode()
    while time.monotonic() < until:
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=180)
        with suppress(OSError):
            connection.request(
                "POST", "/api/pieces/from-picture", body, {"Content-Type": f"multipart/form-data; boundary={boundary}"}
            )
            connection.getresponse().read()


def memory(of: int) -> int:
    """MB that a process and those below it hold, shared ones by their share."""
    total, tasks = 0, [of]
    while tasks:
        number = tasks.pop()
        with suppress(OSError):
            for line in Path(f"/proc/{number}/smaps_rollup").read_text().splitlines():
                total += int(line.split()[1]) if line.startswith("Pss:") else 0
            for thread in Path(f"/proc/{number}/task").iterdir():
                tasks += map(int, (thread / "children").read_text().split())
    return total // 1024


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--makers", type=int, default=50)
    parser.add_argument("--seconds", type=float, default=30)
    parser.add_argument("--noisy", action="store_true")
    args = parser.parse_args()
    with started() as (port, process):
        first = Maker(port)
        pieces = [p["id"] for p in first.ask("GET", "/api/pieces")["pieces"]]
        makers = [Maker(port) for _ in range(args.makers)]
        for number, maker in enumerate(makers):
            maker.begin(pieces[number % len(pieces)])
        before = memory(process)
        until = time.monotonic() + args.seconds
        took: list[float] = []
        healthy: list[float] = []
        failed: list[str] = []
        threads = [threading.Thread(target=work, args=(m, n, until, took, failed)) for n, m in enumerate(makers)]
        threads.append(threading.Thread(target=health, args=(port, until, healthy)))
        if args.noisy:
            threads.append(threading.Thread(target=noisy, args=(port, until)))
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        busy = sum(m.answers[503] for m in makers)
        p = np.quantile(took, [0.5, 0.95, 1]) * 1000
        h = np.quantile(healthy, [0.5, 0.95, 1]) * 1000
        print(f"{args.makers} makers, {args.seconds:.0f} s{', one with a noisy picture' if args.noisy else ''}")
        print(f"edits: {len(took)}, p50 {p[0]:.0f} ms, p95 {p[1]:.0f} ms, longest {p[2]:.0f} ms")
        statuses = sum((m.answers for m in makers), Counter())
        print(f"failed: {len(failed)} {failed[:1] or ''}, asked again: {busy}; answers: {dict(statuses)}")
        print(f"health: p50 {h[0]:.0f} ms, p95 {h[1]:.0f} ms, longest {h[2]:.0f} ms")
        print(f"memory: {before} MB before, {memory(process)} MB after")


if __name__ == "__main__":
    main()
