"""Raise on the page: python -m benchmarks.raising [NAMES]

How long a new height of 500 regions takes from the key until the solid stands so on the screen and until its exact
surface has come, and whether the page stalls while a list of names is made; in a headless browser.
"""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from benchmarks.page import call, mark_drawn, waited
from benchmarks.server import CHROMIUM_FLAGS, serving
from benchmarks.solids import blobs
from drelo.core.outline.path_data import write_path
from drelo.formats.drawing_in import read_drawing

REGIONS = 500
KEYS = 12
REST_MS = 4000
NAMES = 200
# ms; a page that draws no frame for longer feels stuck.
LATE = 200


def many_regions(address: str) -> tuple[str, int]:
    """A piece of overlapping blobs, and how many regions it has."""
    drawing = read_drawing(blobs(REGIONS)[0].encode(), "blobs.svg")
    things = [
        {"kind": "path", "id": f"d{i}", "path": write_path(thing.contours)} for i, thing in enumerate(drawing.things)
    ]
    piece = call(address, "/api/pieces", {"name": "Blobs"})[0]
    body = {"revision": piece["revision"], "edit": {"do": "put-drawn", "things": things}}
    bench = call(address, f"/api/pieces/{piece['id']}/edits", body)[0]
    return piece["id"], len(bench["flat"]["regions"])


def stop(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Stops").get_by_role("button", name=name).click()


def heights(page: Page, address: str) -> None:
    piece, count = many_regions(address)
    page.goto(f"{address}/bench/{piece}")
    page.wait_for_function("() => performance.getEntriesByName('drelo-solid').length > 0", timeout=90_000)
    stop(page, "Raise")
    tag = page.get_by_role("region", name="Ladder").get_by_role("slider").first
    tag.focus()
    mark_drawn(page)
    for mark, what in (("lift", "moved"), ("lift-drawn", "on the screen"), ("solid", "exact")):
        times = []
        for _ in range(KEYS):
            # Where the processor draws, the solid before must first be on the screen.
            page.wait_for_timeout(REST_MS)
            times.append(waited(page, f"drelo-{mark}", lambda: page.keyboard.press("ArrowUp")))
        print(
            f"{count} regions, new height to solid {what}: "
            f"median {statistics.median(times):.0f} ms, worst {max(times):.0f} ms"
        )


def names(page: Page, address: str, count: int) -> None:
    page.goto(address)
    page.get_by_role("link", name="Open Plot Fourteen").first.click()
    stop(page, "Prove")
    page.get_by_role("textbox", name="Names, one a line").fill("\n".join(f"Plot {i + 1}" for i in range(count)))
    page.evaluate(
        """() => { window.gaps = []; let last = performance.now();
        const step = (now) => { window.gaps.push(now - last); last = now; requestAnimationFrame(step); };
        requestAnimationFrame(step); }"""
    )
    begin = time.perf_counter()
    page.get_by_role("button", name="Make every name").click()
    page.get_by_text("each sealed").wait_for(timeout=1_800_000)
    seconds = time.perf_counter() - begin
    gaps = page.evaluate("() => window.gaps")
    print(f"{count} names in {seconds:.0f} s, {page.get_by_text('each sealed').inner_text()}")
    late = sum(gap > LATE for gap in gaps)
    print(f"  frames: median {statistics.median(gaps):.0f} ms, longest {max(gaps):.0f} ms, {late} of {len(gaps)} late")


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else NAMES
    with tempfile.TemporaryDirectory() as folder, serving(Path(folder)) as address, sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM_FLAGS)
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        heights(page, address)
        names(page, address, count)
        chromium.close()


if __name__ == "__main__":
    main()
