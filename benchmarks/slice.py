"""Measures the slice from picture to solid; run with `.venv/bin/python -m benchmarks.slice`.

Every figure of ours stands beside a plain library call in the same run, since machines differ.
"""

from __future__ import annotations

import gzip
import json
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import shapely
from PIL import Image, ImageDraw
from playwright.sync_api import sync_playwright
from skimage.measure import find_contours

from benchmarks.page import waited
from benchmarks.server import CHROMIUM_FLAGS, serving
from drelo.core.picture.decode import Picture, decode
from drelo.core.piece.applying import apply
from drelo.core.piece.art import Art
from drelo.core.piece.document import Document
from drelo.core.piece.edits import SetDefaults
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.memo import Memo
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.trace.ink import InkSettings, trace_ink
from drelo.formats.glb import write_glb

ROOT = Path(__file__).resolve().parents[1]
ROUNDS = 9


def beside(ours: Callable[[], object], plain: Callable[[], object], rounds: int = 15) -> tuple[float, float]:
    """Median seconds of two actions, run by turns so that a busy machine weighs on both alike."""
    ours(), plain()
    seconds: tuple[list[float], list[float]] = ([], [])
    for _ in range(rounds):
        for action, list_of in ((ours, seconds[0]), (plain, seconds[1])):
            begin = time.perf_counter()
            action()
            list_of.append(time.perf_counter() - begin)
    return statistics.median(seconds[0]), statistics.median(seconds[1])


def silhouettes() -> dict[str, bytes]:
    return {
        name: (ROOT / "demo" / "pictures" / name).read_bytes() for name in ("pear.png", "crest.png", "snail-scan.jpg")
    }


def tracing() -> list[tuple[str, str, str]]:
    rows = []
    for name, data in silhouettes().items():
        picture: Picture = decode(data)
        grey = picture.rgb[..., 0] / 255.0
        ours, plain = beside(
            lambda picture=picture: trace_ink(picture, InkSettings()), lambda grey=grey: find_contours(grey, 0.5)
        )
        size = picture.width * picture.height / 1e6
        rows.append(
            (
                f"trace {name}, {size:.2f} MP",
                f"{ours * 1000:.0f} ms",
                f"{ours / plain:.2f} × find_contours ({plain * 1000:.0f} ms)",
            )
        )
    return rows


class _Traced(Evaluation):
    """An evaluation that is given its art."""

    def __init__(self, art: Art, load: Callable[[str], bytes], memo: Memo) -> None:
        super().__init__(load, memo)
        self._given = art

    def art(self, document: Document) -> Art:
        return self._given


def solids() -> list[tuple[str, str, str]]:
    data = silhouettes()["pear.png"]
    picture = decode(data)
    source = PlacedPicture(id="s", asset="0" * 64, name="pear.png", width=picture.width, height=picture.height)
    document = Document(pictures=(source,))
    traced = Evaluation(lambda _: data, Memo())
    art = traced.art(document)

    def fresh() -> bytes:
        """Everything after the trace, which is handed over as it is."""
        return write_glb(_Traced(art, lambda _: data, Memo()).raised(document))

    heights = iter(np.linspace(1, 5, 1000).tolist())

    def higher() -> bytes:
        return write_glb(traced.raised(apply(document, SetDefaults(height=next(heights)))))

    outlines = [shape.outline.flattened(0.2) for shape in art.shapes]

    def plain() -> object:
        return shapely.polygonize([shapely.union_all(shapely.boundary(np.array(outlines)))])

    rows = []
    for name, action in (("solid of the trace, pear.png", fresh), ("new height, pear.png, in core", higher)):
        ours, reference = beside(action, plain)
        rows.append(
            (
                name,
                f"{ours * 1000:.0f} ms",
                f"{ours / reference:.1f} × bare noding of its lines ({reference * 1000:.1f} ms)",
            )
        )
    return rows


# What a bare command does that reads a picture and finds its level lines.
BARE = "import sys, numpy as np; from PIL import Image; from skimage.measure import find_contours; \
find_contours(np.asarray(Image.open(sys.argv[1]).convert('L')) / 255, 0.5)"


def starting() -> list[tuple[str, str, str]]:
    """The headless commands from call to end, on something small, beside a bare command."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        picture, drawing, recipe = folder / "disc.png", folder / "plate.svg", folder / "plate.json"
        image = Image.new("L", (200, 200), 255)
        ImageDraw.Draw(image).ellipse((40, 40, 160, 160), fill=0)
        image.save(picture)
        drawing.write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 60 40"><path d="M5 5h50v30h-50z"/></svg>'
        )
        recipe.write_text(json.dumps({"drelo": 1, "art": {"file": drawing.name, "width": 40}}))
        commands: dict[str, list[str | Path]] = {
            "trace": ["trace", picture, "-o", folder / "disc.svg"],
            "build": ["build", recipe, "-o", folder / "plate.stl"],
        }
        rows = []
        for word, command in commands.items():
            ours, bare = beside(
                lambda command=command: subprocess.run([ROOT / "drelo", *command], check=True, capture_output=True),
                lambda: subprocess.run([sys.executable, "-c", BARE, picture], check=True),
                rounds=7,
            )
            rows.append(
                (
                    f"command {word}, from call to end",
                    f"{ours:.2f} s",
                    f"{ours / bare:.2f} × bare command ({bare:.2f} s)",
                )
            )
        return rows


def browser() -> list[tuple[str, str, str]]:
    rows = []
    with tempfile.TemporaryDirectory() as folder, serving(Path(folder)) as address, sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM_FLAGS)
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        loads = []
        for _ in range(5):
            page.goto("about:blank")
            page.goto(address)
            page.get_by_role("button", name="Start with a file").wait_for()
            loads.append(page.evaluate("() => performance.now()"))
        rows.append(("first page, interactive", f"{statistics.median(loads):.0f} ms", "loopback, headless"))
        page.get_by_role("link", name="Open Pear coaster").click()
        page.wait_for_function("() => performance.getEntriesByName('drelo-solid').length > 0")
        page.get_by_role("button", name="Raise").click()
        height = page.get_by_role("slider", name="Height, slider")
        height.focus()
        heights = [waited(page, "drelo-solid", lambda: page.keyboard.press("ArrowRight")) for _ in range(ROUNDS)]
        rows.append(
            (
                "new height to new solid in the page",
                f"{statistics.median(heights):.0f} ms",
                f"worst {max(heights):.0f} ms",
            )
        )
        page.get_by_role("button", name="Trace").click()
        level = page.get_by_role("slider", name="Level, slider")
        level.focus()
        levels = [waited(page, "drelo-flat", lambda: page.keyboard.press("ArrowRight")) for _ in range(ROUNDS)]
        rows.append(
            (
                "new level to new outline in the page",
                f"{statistics.median(levels):.0f} ms",
                f"worst {max(levels):.0f} ms",
            )
        )
        data = silhouettes()["pear.png"]
        page.goto(address)
        page.wait_for_load_state("networkidle")
        begin = time.perf_counter()
        page.set_input_files("input[type=file]", {"name": "pear.png", "mimeType": "image/png", "buffer": data})
        page.wait_for_url("**/bench/**")
        page.locator("[data-region]").first.wait_for()
        outline = time.perf_counter() - begin
        page.wait_for_function("() => performance.getEntriesByName('drelo-solid').length > 0")
        rows.append(
            (
                "dropped picture to outline / to solid",
                f"{outline * 1000:.0f} / {(time.perf_counter() - begin) * 1000:.0f} ms",
                "opening page at rest before",
            )
        )
        chromium.close()
    for file in sorted((ROOT / "frontend" / "dist" / "assets").glob("*.js")):
        packed = len(gzip.compress(file.read_bytes(), 9))
        rows.append((f"script {file.name.split('-')[0]}", f"{packed / 1000:.0f} kB", "gzipped"))
    return rows


def main() -> None:
    rows = starting() + tracing() + solids() + browser()
    width = max(len(name) for name, _, _ in rows)
    for name, figure, beside in rows:
        print(f"{name:<{width}}  {figure:>16}  {beside}")
    print(json.dumps(rows))


if __name__ == "__main__":
    main()
