"""What an hour of one maker costs, played without its pauses: python -m benchmarks.hour

The hour: two pictures brought in, 200 edits of heights, each after six previews that follow the hand and with the solid
after it, 20 looks at the rehearsal, 4 exports, and the page of pieces 10 times. Each part is told in processor seconds
of the workers, the database and all together, and in bytes sent and kept.
"""

from __future__ import annotations

import io
import json
import random
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from PIL import Image, ImageDraw, ImageFilter

from benchmarks.load import Maker, started
from benchmarks.machines import processor

PICTURES, EDITS, PREVIEWS, LOOKS, EXPORTS, SHELVES = 2, 200, 6, 20, 4, 10
BOUNDARY = "drelo-hour"


class Counted(Maker):
    """A maker whose bytes are counted."""

    received = 0

    def fetch(self, method: str, path: str, body: bytes | None = None, kind: str = "application/json") -> bytes:
        self._connection.request(method, path, body, {"Content-Type": kind, "Accept-Encoding": "gzip"})
        answer = self._connection.getresponse()
        data = answer.read()
        assert answer.status < 400, (answer.status, path, data[:300])
        self.received += len(data)
        return data

    def told(self, method: str, path: str, body: object = None) -> dict:
        return json.loads(self.fetch(method, path, None if body is None else json.dumps(body).encode()))


def drawn(number: int) -> bytes:
    """A logo of 1200 px as a JPEG: letters and a badge, its edges soft."""
    image = Image.new("RGB", (2400, 2400), "white")
    draw = ImageDraw.Draw(image)
    random_ = random.Random(number)
    draw.ellipse((200, 200, 2200, 2200), fill=(30, 60, 110))
    draw.ellipse((330, 330, 2070, 2070), fill="white")
    for _ in range(14):
        x, y, r = random_.randint(600, 1800), random_.randint(600, 1800), random_.randint(40, 220)
        draw.regular_polygon((x, y, r), random_.randint(3, 8), fill=random_.choice(["black", (160, 40, 50)]))
    packed = io.BytesIO()
    image.filter(ImageFilter.GaussianBlur(2)).resize((1200, 1200)).save(packed, "JPEG", quality=85)
    return packed.getvalue()


@dataclass
class Parts:
    """Processor seconds by part of the hour and by process, and bytes received."""

    groups: dict[str, list[int]]
    maker: Counted
    rows: dict[str, tuple[dict[str, float], int, float]] = field(default_factory=dict)

    def measure(self, name: str, action: Callable[[], None]) -> None:
        before = {g: sum(map(processor, of)) for g, of in self.groups.items()}
        bytes_before, begun = self.maker.received, time.monotonic()
        action()
        lasted = time.monotonic() - begun
        # What goes on behind it belongs to it: it has ended when nothing has run for a while.
        while self.maker.told("GET", "/api/ready")["running"]:
            time.sleep(0.2)
        used = {g: sum(map(processor, of)) - before[g] for g, of in self.groups.items()}
        self.rows[name] = (used, self.maker.received - bytes_before, lasted)


def below(number: int) -> list[int]:
    children: list[int] = []
    for thread in Path(f"/proc/{number}/task").iterdir():
        children += map(int, (thread / "children").read_text().split())
    return children


def groups(main: int) -> dict[str, list[int]]:
    """The processes of an application: what they are is in their names."""
    found: dict[str, list[int]] = {"workers": [], "database": [], "printer": []}
    for child in below(main):
        words = Path(f"/proc/{child}/cmdline").read_bytes().decode(errors="replace")
        name = "database" if "mariadbd" in words else "printer" if "drelo.device" in words else "workers"
        found[name].append(child)
    return found


def main() -> None:
    with started() as (port, process):
        maker = Counted(port)
        parts = Parts(groups(process), maker)
        own = {"all": [process]}
        kept = maker.told("GET", "/api/storage")
        random_ = random.Random(5)
        pieces: list[str] = []

        def bring() -> None:
            for number in range(PICTURES):
                head = (
                    f'--{BOUNDARY}\r\nContent-Disposition: form-data; name="picture"; filename="logo.jpg"\r\n'
                    "Content-Type: image/jpeg\r\n\r\n"
                ).encode()
                body = head + drawn(number) + f"\r\n--{BOUNDARY}--\r\n".encode()
                made = json.loads(
                    maker.fetch("POST", "/api/pieces/from-picture", body, f"multipart/form-data; boundary={BOUNDARY}")
                )
                pieces.append(made["piece"]["id"])

        def edit() -> None:
            for turn in range(EDITS):
                piece = pieces[turn % len(pieces)]
                if piece not in states:
                    opened = maker.told("GET", f"/api/pieces/{piece}")
                    states[piece] = (opened["piece"]["revision"], opened["flat"]["regions"])
                for _ in range(PREVIEWS):
                    maker.told("POST", f"/api/pieces/{piece}/preview", height(piece))
                changed(piece)
                maker.fetch("GET", f"/api/pieces/{piece}/solid/{states[piece][0]}")

        def height(piece: str) -> dict:
            revision, regions = states[piece]
            region = random_.choice(regions)
            picked = [{"id": region["id"], "mark": region["mark"]}]
            edit = {"do": "set-regions", "picked": picked, "height": round(random_.uniform(0.4, 3), 2)}
            return {"revision": revision, "changes_only": True, "edit": edit}

        def changed(piece: str) -> None:
            made = maker.told("POST", f"/api/pieces/{piece}/edits", height(piece))
            states[piece] = (made["piece"]["revision"], states[piece][1])

        def rehearse() -> None:
            for turn in range(LOOKS):
                piece = pieces[turn % len(pieces)]
                # As at the bench, something has changed since the last look.
                changed(piece)
                maker.told("POST", f"/api/pieces/{piece}/rehearsal", {"revision": states[piece][0]})

        def export() -> None:
            for turn in range(EXPORTS):
                piece = pieces[turn % len(pieces)]
                changed(piece)
                made = maker.told(
                    "POST",
                    f"/api/pieces/{piece}/take-away",
                    {"revision": states[piece][0], "kind": "3mf", "within": 0.01},
                )
                maker.fetch("GET", made["url"])

        def shelf() -> None:
            for _ in range(SHELVES):
                maker.fetch("GET", "/api/pieces")

        states: dict[str, tuple[int, list[dict]]] = {}
        before = processor(own["all"][0])
        parts.measure("pictures", bring)
        parts.measure("edits", edit)
        parts.measure("rehearsals", rehearse)
        parts.measure("exports", export)
        parts.measure("shelf", shelf)
        total = processor(own["all"][0]) - before
        after = maker.told("GET", "/api/storage")
        for name in ("pieces", "assets", "derived"):
            print(f"kept, {name}: {(after[name]['bytes'] - kept[name]['bytes']) / 1e6:.2f} MB more")
        for name, (used, size, lasted) in parts.rows.items():
            print(
                f"{name}: {lasted:.1f} s; {', '.join(f'{g} {v:.2f} s' for g, v in used.items())}; {size / 1e6:.2f} MB"
            )
        print(f"all: {total:.1f} s of processor, the web process's among them")


if __name__ == "__main__":
    main()
