"""A long list of contents: every row is reached, and what is picked in the views is brought into view."""

from __future__ import annotations

import cv2
import numpy as np
from playwright.sync_api import Page, expect

from tests.browser.hand import begin, stop

SIDE = 20


def dots() -> bytes:
    """A picture of 400 dots, each a region."""
    image = np.full((SIDE * 40, SIDE * 40), 255, np.uint8)
    for i in range(SIDE):
        for j in range(SIDE):
            cv2.circle(image, (40 * i + 20, 40 * j + 20), 12, 0, -1, cv2.LINE_AA)
    return bytes(cv2.imencode(".png", image)[1])


def test_every_row_is_reached_and_few_are_drawn(page: Page) -> None:
    begin(page, dots(), "dots.png")
    stop(page, "Raise")
    rows = page.get_by_role("group", name="Regions", exact=True).get_by_role("listitem")
    expect(rows.first).to_have_attribute("aria-setsize", str(SIDE * SIDE))
    assert rows.count() < 80
    contents = page.get_by_role("complementary", name="Contents")
    contents.evaluate("e => e.scrollTo(0, e.scrollHeight)")
    expect(page.locator(f"li[aria-posinset='{SIDE * SIDE}']")).to_be_visible()
    # By keys: from row to row, past those that were drawn at first.
    contents.evaluate("e => e.scrollTo(0, 0)")
    expect(page.locator("li[aria-posinset='1']")).to_be_visible()
    page.locator("li[aria-posinset='1'] button").first.focus()
    for _ in range(60):
        page.keyboard.press("Tab")
    at = page.evaluate("document.activeElement.closest('li').getAttribute('aria-posinset')")
    assert int(at) == 61


def test_what_is_picked_on_the_sheet_comes_into_view(page: Page) -> None:
    begin(page, dots(), "dots.png")
    stop(page, "Raise")
    last = page.get_by_role("region", name="Flat view").locator("path[data-region]").last
    box = last.bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    picked = page.get_by_role("group", name="Regions", exact=True).get_by_role("button", pressed=True)
    expect(picked).to_have_count(1)
    expect(picked).to_be_in_viewport()
