"""What a maker's hand does on the page."""

from __future__ import annotations

import base64
import re

from playwright.sync_api import Page, expect

# A loaded machine draws slowly.
expect.set_options(timeout=20_000)

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


def saved(page: Page) -> None:
    expect(page.get_by_role("status").filter(has_text=re.compile("^saved$"))).to_be_visible()


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
