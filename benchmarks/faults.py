"""Kills parts of a running Drelo at random moments while edits come in: python -m benchmarks.faults [--rounds N]

Counts what was acknowledged and is not there afterwards, versions that cannot be read, and what was left behind; prints
how long each part takes until edits are answered again. Ends with status 1 where anything was lost.
"""

from __future__ import annotations

import argparse
import http.client
import json
import os
import random
import secrets
import signal
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from tests.processes import children, words

ROOT = Path(__file__).resolve().parents[1]
PORT = 8219
PARTS = ("everything", "main process", "web process", "worker", "database")
# Every so many rounds all versions are read.
READ_ALL = 20


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=200, metavar="N")
    parser.add_argument("--seed", type=int, default=None, metavar="N", help="else one that is new each time")
    args = parser.parse_args()
    seed = secrets.randbelow(2**32) if args.seed is None else args.seed
    chance = random.Random(seed)
    took: dict[str, list[float]] = defaultdict(list)
    wrong: list[str] = []
    before = set(Path("/tmp").glob("drelo-*"))
    with tempfile.TemporaryDirectory(prefix="faults-") as name:
        app = App(Path(name) / "data")
        maker = Maker()
        app.start()
        maker.begin()
        for number in range(args.rounds):
            part = chance.choice(PARTS)
            with maker.at_work():
                time.sleep(chance.uniform(0.05, 1.2))
                app.kill(part, chance)
                begin = time.monotonic()
                if part in ("everything", "main process"):
                    wrong += [f"round {number}: {fault}" for fault in app.ended()]
                    begin = time.monotonic()
                    app.start()
                maker.answered_again()
                took[part].append(time.monotonic() - begin)
            wrong += [f"round {number}, {part}: {fault}" for fault in maker.check(whole=number % READ_ALL == 0)]
        wrong += maker.check(whole=True)
        app.stop()
        wrong += [f"left behind: {path}" for path in set(Path("/tmp").glob("drelo-*")) - before]
    print(f"{args.rounds} rounds from seed {seed}: {maker.acknowledged} edits acknowledged, {len(wrong)} faults")
    for part, seconds in sorted(took.items()):
        print(f"  {part}: {len(seconds)} times; again after {_middle(seconds):.1f} s, at most {max(seconds):.1f} s")
    for fault in wrong[:20]:
        print(f"  {fault}")
    return 1 if wrong else 0


def _middle(values: list[float]) -> float:
    return sorted(values)[len(values) // 2]


class App:
    """Drelo as the launcher starts it, on a folder of its own."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        self._process = subprocess.Popen(
            [str(ROOT / "drelo"), "start", "--port", str(PORT)],
            env={**os.environ, "DRELO_DATA": str(self._folder)},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        until = time.monotonic() + 90
        while asked("/api/ready") is None:
            if time.monotonic() > until or self._process.poll() is not None:
                raise SystemExit("Drelo did not start")
            time.sleep(0.05)

    def kill(self, part: str, chance: random.Random) -> None:
        assert self._process is not None
        below = children(self._process.pid)
        databases = [n for n in below if "mariadbd" in words(n)]
        workers = [n for n in below if "multiprocessing.spawn" in words(n)]
        self._below = below
        match part:
            case "everything":
                chosen = [self._process.pid, *below]
                chance.shuffle(chosen)
            case "main process":
                chosen = [self._process.pid]
            case "web process":
                chosen = [n for n in below if "drelo.cli.serving" in words(n)]
            case "worker":
                chosen = chance.sample(workers, chance.randint(1, len(workers))) if workers else []
            case _:
                chosen = databases
        for number in chosen:
            with suppress(ProcessLookupError):
                os.kill(number, signal.SIGKILL)

    def ended(self) -> Iterator[str]:
        """What of the application still lives 5 s after its main process was killed."""
        assert self._process is not None
        self._process.wait(10)
        until = time.monotonic() + 5
        left = self._below
        while left and time.monotonic() < until:
            left = [n for n in left if words(n)]
            time.sleep(0.05)
        for number in left:
            yield f"still there after 5 s: {words(number)[:80]}"
            with suppress(ProcessLookupError):
                os.kill(number, signal.SIGKILL)

    def stop(self) -> None:
        assert self._process is not None
        os.kill(self._process.pid, signal.SIGINT)
        self._process.wait(30)


class Maker:
    """Somebody who edits one piece without a pause, as the page does: the same edit again until it is answered."""

    def __init__(self) -> None:
        self.acknowledged = 0
        self._piece: dict[str, Any] = {}
        self._height = 0.0
        self._kept: list[tuple[int, float]] = []
        self._fault: list[str] = []
        self._stop = threading.Event()
        self._answered = threading.Event()

    def begin(self) -> None:
        """Raises SystemExit when there is no demo."""
        listed = asked("/api/pieces")
        if not listed:
            raise SystemExit("there are no pieces")
        key = next(p["id"] for p in listed["pieces"] if p["name"] == "Pear coaster")
        self._piece = (asked(f"/api/pieces/{key}") or {})["piece"]

    @contextmanager
    def at_work(self) -> Iterator[None]:
        self._stop.clear()
        thread = threading.Thread(target=self._edit, daemon=True)
        thread.start()
        try:
            yield
        finally:
            self._stop.set()
            thread.join(60)

    def answered_again(self) -> None:
        """Wait until an edit that was sent after the fault is answered."""
        self._answered.clear()
        # The one that is on its way may have been answered before.
        for _ in range(2):
            if not self._answered.wait(60):
                self._fault.append("no answer for 60 s")
                return
            self._answered.clear()

    def _edit(self) -> None:
        while not self._stop.is_set():
            height = round(0.2 + 0.01 * (self.acknowledged % 500), 4)
            key, edit = secrets.token_hex(8), {"do": "set-defaults", "height": height}
            while True:
                change = {"revision": self._piece["revision"], "edit": edit}
                answer = asked(f"/api/pieces/{self._piece['id']}/edits", change, key)
                if answer is not None:
                    break
                time.sleep(0.1)
            if "piece" not in answer:
                self._fault.append(f"an edit was answered with {answer.get('status')}: {answer.get('detail')}")
                self.begin()
                continue
            self._piece = answer["piece"]
            self._kept.append((answer["piece"]["revision"], height))
            self._height = height
            self.acknowledged += 1
            self._answered.set()

    def check(self, whole: bool) -> list[str]:
        """Whether what was acknowledged stands; whole: every version of it."""
        found, self._fault = self._fault, []
        now = (asked(f"/api/pieces/{self._piece['id']}") or {}).get("piece")
        if now is None:
            return [*found, "the piece cannot be read"]
        if now["revision"] != self._piece["revision"] or now["document"]["default_height"] != self._height:
            found.append(f"revision {now['revision']} stands in place of {self._piece['revision']}")
        revisions = [revision for revision, _ in self._kept]
        if len(set(revisions)) != len(revisions):
            found.append("an edit was made twice or lost its number")
        if whole:
            for revision in random.sample(revisions, min(len(revisions), 60)):
                if asked(f"/api/pieces/{self._piece['id']}/picture/{revision}", raw=True) is None:
                    found.append(f"version {revision} cannot be read")
        return found


def asked(path: str, body: object = None, key: str | None = None, raw: bool = False) -> Any:
    """The answer, a refusal too; None where there was none, or one that says to ask again."""
    headers = {"Content-Type": "application/json", **({"Idempotency-Key": key} if key else {})}
    data = None if body is None else json.dumps(body).encode()
    try:
        with urllib.request.urlopen(
            urllib.request.Request(f"http://127.0.0.1:{PORT}{path}", data, headers), timeout=20
        ) as answer:
            return answer.read() if raw else json.load(answer)
    except urllib.error.HTTPError as error:
        return None if error.code == 503 or raw else json.load(error)
    except (OSError, ValueError, http.client.HTTPException):
        return None


if __name__ == "__main__":
    sys.exit(main())
