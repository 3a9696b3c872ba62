"""What a maker's hand does on the page."""

from __future__ import annotations

import base64
import re

from playwright.sync_api import Locator, Page, expect

# A loaded machine draws slowly.
expect.set_options(timeout=30_000)

DROP = """
([name, type, data]) => {
  const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
  const transfer = new DataTransfer();
  transfer.items.add(new File([bytes], name, { type }));
  for (const kind of ["dragenter", "dragover", "drop"])
    document.body.dispatchEvent(new DragEvent(kind, { dataTransfer: transfer, bubbles: true, cancelable: true }));
}
"""
PASTE = """
([name, type, data]) => {
  const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
  const transfer = new DataTransfer();
  transfer.items.add(new File([bytes], name, { type }));
  const options = { clipboardData: transfer, bubbles: true, cancelable: true };
  document.body.dispatchEvent(new ClipboardEvent("paste", options));
}
"""


def drop(page: Page, name: str, data: bytes, kind: str = "image/png") -> None:
    page.evaluate(DROP, [name, kind, base64.b64encode(data).decode()])


def paste(page: Page, name: str, data: bytes, kind: str = "image/png") -> None:
    page.evaluate(PASTE, [name, kind, base64.b64encode(data).decode()])


def begin(page: Page, data: bytes, name: str = "ring.png") -> None:
    """Drop a picture on the opening page and wait for the bench."""
    page.goto("/")
    expect(page.get_by_role("heading", name="Pieces")).to_be_visible()
    drop(page, name, data)
    page.wait_for_url(re.compile("/bench/"))
    expect(page.locator("[data-region]").first).to_be_visible()
    at_rest(page)


def at_rest(page: Page) -> None:
    """The flat view has its size and is fitted: nothing moves for a while."""
    page.wait_for_function(
        """() => {
          const box = document.querySelector("[data-region]").getBoundingClientRect();
          const at = [box.x, box.y, box.width, box.height].join();
          const now = performance.now();
          if (window.atRest?.at !== at) window.atRest = { at, since: now };
          return now - window.atRest.since > 400;
        }"""
    )


def stop(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Stops").get_by_role("button", name=name).click()


def tick(page: Page, piece: str) -> None:
    """Pick a piece on the page of all pieces, wherever it lies: the list may still be coming up to date."""
    box = page.get_by_role("checkbox", name=f"Pick {piece}", exact=True).first
    box.dispatch_event("click")
    # Another of this name may be the first by now.
    expect(page.get_by_role("checkbox", name=f"Pick {piece}", exact=True, checked=True).first).to_be_attached()


def saved(page: Page) -> None:
    expect(page.get_by_role("status").filter(has_text=re.compile("^saved$"))).to_be_visible()


def told(page: Page, words: str) -> None:
    """A notice says these words; they are read out as well, by an element that is gone after a second."""
    notices = page.get_by_role("region", name=re.compile("^Notices"))
    expect(notices.get_by_text(words)).to_be_visible()


def solid_seen(page: Page) -> None:
    """The solid view has drawn something other than its ground."""
    page.wait_for_function(
        """() => {
          const canvas = document.querySelector("canvas");
          if (!canvas) return false;
          const small = document.createElement("canvas");
          small.width = small.height = 48;
          const pen = small.getContext("2d");
          return new Promise((done) => requestAnimationFrame(() => {
            pen.drawImage(canvas, 0, 0, 48, 48);
            const seen = new Set();
            const data = pen.getImageData(0, 0, 48, 48).data;
            for (let i = 0; i < data.length; i += 4) if (data[i + 3] > 200) seen.add(data[i] >> 4);
            done(seen.size > 1);
          }));
        }""",
        timeout=20_000,
    )


def fill(page: Page, label: str, text: str) -> None:
    field = page.get_by_role("textbox", name=label, exact=True)
    field.fill(text)
    field.press("Enter")


def taken(page: Page) -> bytes:
    """The STL that is exported."""
    page.get_by_role("banner").get_by_role("button", name="Export").click()
    page.get_by_role("radio", name="STL", exact=True).click()
    with page.expect_download() as coming:
        page.get_by_role("button", name="Export STL", exact=True).click()
    expect(page.get_by_text("Sealed: read back and checked")).to_be_visible()
    page.keyboard.press("Escape")
    return coming.value.path().read_bytes()


# On the sheet in Shape


def empty(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="New empty piece").click()
    page.wait_for_url(re.compile("/bench/"))
    stop(page, "Shape")
    expect(page.locator("[data-ground]")).to_be_visible()


def part(page: Page, name: str) -> None:
    page.get_by_label("Part of shaping").get_by_role("radio", name=name, exact=True).click()


def tool(page: Page, name: str) -> None:
    page.get_by_role("button", name=name, exact=True).click()


def ground(page: Page) -> Locator:
    return page.locator("[data-ground]")


def spot(page: Page, x: float, y: float) -> tuple[float, float]:
    """A place on the screen, as shares of the flat view."""
    box = ground(page).bounding_box()
    assert box
    return box["x"] + x * box["width"], box["y"] + y * box["height"]


def click(page: Page, x: float, y: float, **more: object) -> None:
    page.mouse.move(*spot(page, x, y))
    page.mouse.click(*spot(page, x, y), **more)  # type: ignore[arg-type]


def drag(page: Page, *points: tuple[float, float]) -> None:
    page.mouse.move(*points[0])
    page.mouse.down()
    for point in points[1:]:
        page.mouse.move(*point, steps=6)
    page.mouse.up()


def on_screen(page: Page, selector: str, share: float) -> tuple[float, float]:
    """A point on a path, so far along it, on the screen."""
    x, y = page.evaluate(
        """([selector, share]) => {
          const path = document.querySelector(selector);
          const at = path.getPointAtLength(path.getTotalLength() * share);
          const point = new DOMPoint(at.x, at.y).matrixTransform(path.getScreenCTM());
          return [point.x, point.y];
        }""",
        [selector, share],
    )
    return x, y


def node_count(page: Page) -> int:
    return int(page.locator("[data-node-count]").get_attribute("data-node-count") or 0)


def regions(page: Page, count: int) -> None:
    expect(page.locator("[data-region]")).to_have_count(count)
