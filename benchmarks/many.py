"""Many outlines on the bench: python -m benchmarks.many [OUTLINES]

5000 outlines with 50 000 nodes: frames a second while the sheet is moved and zoomed, how long picking takes, and what
an edit sends and how long it takes, in a headless browser against a served piece.
"""

from __future__ import annotations

import statistics
import sys
import tempfile
from pathlib import Path

import numpy as np
from playwright.sync_api import sync_playwright

from benchmarks.page import call, frames
from benchmarks.server import CHROMIUM_FLAGS, serving

OUTLINES = 5000
NODES = 10
PITCH = 4.0


def drawing(count: int) -> list[str]:
    """Path data of closed smooth outlines in rows, mm."""
    rng = np.random.default_rng(3)
    across = int(np.ceil(np.sqrt(count * 1.6)))
    turn = np.linspace(0, 2 * np.pi, NODES, endpoint=False)
    parts = []
    for i in range(count):
        middle = np.array([i % across, i // across]) * PITCH
        radius = (1.5 + 0.25 * rng.normal(size=NODES))[:, None]
        way = np.column_stack([np.cos(turn), np.sin(turn)])
        points = middle + radius * way
        tangent = (np.roll(points, -1, 0) - np.roll(points, 1, 0)) / 6
        text = f"M{points[0, 0]:.3f} {points[0, 1]:.3f}"
        for j in range(NODES):
            k = (j + 1) % NODES
            a, b, c = points[j] + tangent[j], points[k] - tangent[k], points[k]
            text += f"C{a[0]:.3f} {a[1]:.3f} {b[0]:.3f} {b[1]:.3f} {c[0]:.3f} {c[1]:.3f}"
        parts.append(text + "Z")
    return parts


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else OUTLINES
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


if __name__ == "__main__":
    main()
