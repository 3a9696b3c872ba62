"""The hand is quicker than the server: nothing that it did is lost. Every answer is held back by 400 ms."""

from __future__ import annotations

import itertools
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hand import begin, click, drag, empty, ground, on_screen, part, regions, saved, spot, stop, tool
from tests.browser.test_sheet import badge, number

SLOW = """() => {
  const fetch = window.fetch;
  window.fetch = (...all) => new Promise((go) => setTimeout(go, 400)).then(() => fetch(...all));
}"""


@pytest.fixture
def slow(page: Page) -> Page:
    page.add_init_script(f"({SLOW})()")
    return page


def document(page: Page) -> dict[str, Any]:
    saved(page)
    piece = page.url.rsplit("/", 1)[1]
    found: dict[str, Any] = page.request.get(f"/api/pieces/{piece}").json()["piece"]["document"]
    return found


def test_ten_clicks_are_ten_points(slow: Page) -> None:
    empty(slow)
    tool(slow, "Draw a line")
    places = [(0.2 + 0.06 * i, 0.3 + 0.25 * (i % 2)) for i in range(10)]
    for x, y in places:
        slow.mouse.click(*spot(slow, x, y))
    slow.keyboard.press("Escape")
    (line,) = document(slow)["drawn"]
    assert len(line["stretches"]) == 9
    xs = [line["start"][0], *(s["to"][0] for s in line["stretches"])]
    steps = [b - a for a, b in itertools.pairwise(xs)]
    assert steps == pytest.approx([steps[0]] * 9, rel=0.05)


def test_words_are_typed_over_at_once_and_kept_when_the_next_field_follows(slow: Page) -> None:
    empty(slow)
    tool(slow, "Set words")
    click(slow, 0.5, 0.5)
    slow.keyboard.type("Anna")
    expect(slow.get_by_role("textbox", name="Text", exact=True)).to_have_value("Anna")
    height = slow.get_by_role("textbox", name="Height of capitals")
    height.fill("21")
    height.press("Enter")
    spacing = slow.get_by_role("textbox", name="Spacing", exact=True)
    spacing.fill("0.2")
    spacing.press("Enter")
    (words,) = document(slow)["drawn"]
    assert (words["text"], words["height"], words["spacing"]) == ("Anna", 21, 0.2)


def test_delete_takes_the_node_that_was_dragged(slow: Page) -> None:
    begin(slow, badge(100), "square.png")
    stop(slow, "Shape")
    expect(ground(slow)).to_be_visible()
    part(slow, "Change")
    tool(slow, "Nodes")
    slow.wait_for_timeout(800)
    x, y = on_screen(slow, "[data-region]", 0)
    slow.mouse.click(x + 60, y + 60)
    regions(slow, 1)
    drag(slow, (x, y), (x + 30, y - 20))
    slow.keyboard.press("Delete")
    saved(slow)
    path = slow.locator("[data-region]").first.get_attribute("d") or ""
    numbers = [float(n) for n in path.replace("M", " ").replace("L", " ").replace("Z", "").split()]
    corners = list(zip(numbers[::2], numbers[1::2], strict=True))
    # The three others stay where they were.
    assert len(corners) == 3
    (left, top), (right, low) = (
        (min(c) for c in zip(*corners, strict=True)),
        (max(c) for c in zip(*corners, strict=True)),
    )
    assert all(min(abs(a - left), abs(a - right)) < 0.01 for a, _ in corners)
    assert all(min(abs(b - top), abs(b - low)) < 0.01 for _, b in corners)


def test_one_undo_whatever_has_the_focus(slow: Page) -> None:
    empty(slow)
    tool(slow, "Drag it out")
    drag(slow, spot(slow, 0.5, 0.5), spot(slow, 0.6, 0.5))
    saved(slow)
    part(slow, "Place")
    before = number(slow, "Its width")
    field = slow.get_by_role("textbox", name="Its width", exact=True)
    field.fill("44")
    field.press("Enter")
    field.press("Control+z")
    saved(slow)
    expect(field).to_have_value(f"{before:g}")


def test_a_double_click_selects_no_text(slow: Page) -> None:
    begin(slow, badge(100), "square.png")
    stop(slow, "Shape")
    x, y = spot(slow, 0.5, 0.5)
    slow.mouse.dblclick(x, y)
    slow.mouse.dblclick(x, 90)
    assert slow.evaluate("() => getSelection().toString()") == ""
