"""Fingers on a screen and on a pad: a pinch enlarges, two fingers move, one does what the pointer does."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, BrowserContext, CDPSession, Page, expect

from tests.browser.conftest import UNFOLDED
from tests.browser.hand import begin, stop
from tests.browser.test_raise import two_bars

Place = tuple[float, float]


@pytest.fixture
def context(browser: Browser, address: str) -> Iterator[BrowserContext]:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address, has_touch=True)
    context.set_default_timeout(30_000)
    context.add_init_script(UNFOLDED)
    yield context
    context.close()


@pytest.fixture
def fingers(context: BrowserContext, page: Page) -> CDPSession:
    return context.new_cdp_session(page)


def touch(fingers: CDPSession, kind: str, *places: Place) -> None:
    points = [{"x": x, "y": y, "id": i} for i, (x, y) in enumerate(places)]
    fingers.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})


def slide(fingers: CDPSession, start: list[Place], end: list[Place], steps: int = 8) -> None:
    """Fingers come down one after another, slide evenly, and go."""
    for i in range(len(start)):
        touch(fingers, "touchStart", *start[: i + 1])
    for i in range(1, steps + 1):
        along = [(x + (u - x) * i / steps, y + (v - y) * i / steps) for (x, y), (u, v) in zip(start, end, strict=True)]
        touch(fingers, "touchMove", *along)
    touch(fingers, "touchEnd")


def shown(page: Page) -> dict[str, float]:
    box = page.get_by_role("region", name="Flat view").locator("path[data-region]").first.bounding_box()
    assert box
    return dict(box)


def test_a_pinch_enlarges_what_lies_between_the_fingers(page: Page, fingers: CDPSession) -> None:
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    before = shown(page)
    x, y = before["x"] + before["width"] / 2, before["y"] + before["height"] / 2
    slide(fingers, [(x - 20, y), (x + 20, y)], [(x - 40, y), (x + 40, y)])
    after = shown(page)
    assert after["width"] == pytest.approx(2 * before["width"], rel=0.02)
    assert after["x"] + after["width"] / 2 == pytest.approx(x, abs=2)


def test_two_fingers_move_the_sheet_and_pick_nothing(page: Page, fingers: CDPSession) -> None:
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    before = shown(page)
    x, y = before["x"] + 6, before["y"] + 6
    slide(fingers, [(x, y), (x + 60, y + 40)], [(x + 50, y - 30), (x + 110, y + 10)])
    after = shown(page)
    assert after["x"] - before["x"] == pytest.approx(50, abs=1)
    assert after["y"] - before["y"] == pytest.approx(-30, abs=1)
    assert after["width"] == pytest.approx(before["width"], rel=0.001)
    expect(page.get_by_role("contentinfo")).not_to_contain_text("picked:")


def test_a_second_finger_gives_up_what_the_first_had_begun(page: Page, fingers: CDPSession) -> None:
    begin(page, two_bars(), "bars.png")
    stop(page, "Shape")
    page.get_by_role("button", name="Drag it out").click()
    view = page.get_by_role("region", name="Flat view").bounding_box()
    assert view
    x, y = view["x"] + 100, view["y"] + 200
    touch(fingers, "touchStart", (x, y))
    touch(fingers, "touchMove", (x + 60, y + 60))
    slide(fingers, [(x + 60, y + 60), (x + 160, y + 60)], [(x + 50, y + 60), (x + 170, y + 60)])
    expect(page.get_by_role("group", name="Drawn")).to_have_count(0)
    # One finger draws it.
    slide(fingers, [(x, y)], [(x + 80, y + 60)])
    expect(page.get_by_role("group", name="Drawn").get_by_role("listitem")).to_have_count(1)


def test_fingers_on_a_pad_move_and_a_pinch_there_enlarges(page: Page) -> None:
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    before = shown(page)
    page.mouse.move(before["x"] + before["width"] / 2, before["y"] + before["height"] / 2)
    page.mouse.wheel(12, 8)
    expect(page.locator("path[data-region]").first).to_be_visible()
    page.wait_for_function(
        "x => Math.abs(document.querySelector('path[data-region]').getBoundingClientRect().x - x) < 1",
        arg=before["x"] - 12,
    )
    moved = shown(page)
    assert moved["y"] == pytest.approx(before["y"] - 8, abs=1)
    page.keyboard.down("Control")
    page.mouse.wheel(0, -30)
    page.keyboard.up("Control")
    page.wait_for_function(
        "w => document.querySelector('path[data-region]').getBoundingClientRect().width > w * 1.2",
        arg=before["width"],
    )
