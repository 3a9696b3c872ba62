"""Many outlines on the bench, in a headless browser against a served piece."""

from __future__ import annotations

import statistics
import tempfile
from pathlib import Path

import numpy as np
from playwright.sync_api import sync_playwright

from benchmarks.many.drawing import drawing
from benchmarks.page import call, frames
from benchmarks.server import CHROMIUM_FLAGS, serving


def sheet(count: int) -> None:
    """Prints frames a second while the sheet is moved and zoomed, how long picking takes, and what an edit takes."""
    with tempfile.TemporaryDirectory() as folder, serving(Path(folder)) as address, sync_playwright() as playwright:
        piece = call(address, "/api/pieces", {"name": "Many"})[0]
        piece = piece.get("piece", piece)
        things = [{"kind": "path", "id": f"d{i}", "path": p} for i, p in enumerate(drawing(count))]
        bench, size, seconds = call(
            address,
            f"/api/pieces/{piece['id']}/edits",
            {"revision": piece["revision"], "edit": {"do": "put-drawn", "things": things}},
        )
        print(f"outlines {len(bench['flat']['regions'])}, nodes {bench['flat']['nodes']}")
        print(f"all put down: {size / 1e6:.1f} MB in {seconds:.1f} s")
        move = {"do": "transform", "seed": "x", "picked": ["d7"], "matrix": [1, 0, 0, 1, 0.1, 0], "copies": 0}
        for _ in range(3):
            bench, size, seconds = call(
                address,
                f"/api/pieces/{piece['id']}/edits",
                {"revision": bench["piece"]["revision"], "edit": move, "changes_only": True},
            )
            print(f"one outline moved: answer {size / 1e3:.0f} kB in {seconds * 1000:.0f} ms")
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM_FLAGS)
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}/bench/{piece['id']}")
        page.get_by_role("navigation", name="Stops").get_by_role("button", name="Shape").click()
        page.locator("[data-ground]").wait_for()
        page.wait_for_function("() => performance.getEntriesByName('drelo-solid').length > 0", timeout=90_000)
        page.wait_for_timeout(3000)
        box = page.locator("[data-ground]").bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down(button="middle")
        fps, worst = frames(page, lambda i: page.mouse.move(x + 90 * np.sin(i / 9), y + 60 * np.cos(i / 9)))
        page.mouse.up(button="middle")
        print(f"moving the sheet: {fps:.0f} frames a second, longest wait {worst:.0f} ms")
        fps, worst = frames(page, lambda i: page.mouse.wheel(0, -60 if i % 40 < 20 else 60))
        print(f"zooming: {fps:.0f} frames a second, longest wait {worst:.0f} ms")
        waits = []
        for i in range(12):
            px, py = x + 37 * (i % 4) - 60, y + 31 * (i // 4) - 30
            page.mouse.move(px, py)
            page.wait_for_timeout(400)
            page.evaluate(
                """() => addEventListener("pointerdown", () => { const t = performance.now();
                addEventListener("pointerup", () => { requestAnimationFrame(() => { const c = new MessageChannel();
                c.port1.onmessage = () => { window.picked_in = performance.now() - t; }; c.port2.postMessage(0); }); },
                { once: true, capture: true }); }, { once: true, capture: true })"""
            )
            page.mouse.click(px, py)
            page.wait_for_function("() => window.picked_in !== undefined")
            waits.append(page.evaluate("() => { const t = window.picked_in; delete window.picked_in; return t; }"))
        print(f"picking: median {statistics.median(waits):.0f} ms, worst {max(waits):.0f} ms")
        chromium.close()
