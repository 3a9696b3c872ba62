"""By keys alone: a crosshair that does in the views what a pointer does, and pieces made from nothing to the file."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from drelo.core.solid.seal import check_seal
from drelo.formats.threemf import read_3mf
from tests.browser.hand import begin, saved, solid_seen, stop
from tests.browser.test_raise import two_bars


@pytest.fixture(autouse=True)
def no_pointer(page: Page) -> None:
    """What a pointer does would be seen; elements are reached by the focus only."""
    page.add_init_script(
        "window.pointers = 0; addEventListener('pointerdown', e => { if (e.isTrusted) pointers++ }, true)"
    )


def press(page: Page, *keys: str) -> None:
    for key in keys:
        page.keyboard.press(key)


def use(page: Page, role: str, name: str | re.Pattern[str]) -> None:
    """A control is given the focus, as Tab does, and pressed."""
    control = page.get_by_role(role, name=name).first  # type: ignore[arg-type]
    control.focus()
    page.keyboard.press("Enter" if role != "radio" else "Space")


def crosshair(page: Page) -> tuple[float, float]:
    x, y = (page.locator("[data-crosshair]").get_attribute("data-crosshair") or "").split()
    return float(x), float(y)


def steer(page: Page, x: float, y: float) -> None:
    """The crosshair to a place of the window, by arrows alone."""
    for way, far in (("x", x), ("y", y)):
        now = crosshair(page)[0 if way == "x" else 1]
        plus, minus = ("ArrowRight", "ArrowLeft") if way == "x" else ("ArrowDown", "ArrowUp")
        rest = round(far - now)
        key = plus if rest > 0 else minus
        for _ in range(abs(rest) // 12):
            page.keyboard.press(key)
        for _ in range(abs(rest) % 12):
            page.keyboard.press(f"Alt+{key}")


def test_a_region_is_picked_and_told_by_the_crosshair(page: Page) -> None:
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    page.get_by_role("button", name="Fit", exact=True).focus()
    region = page.get_by_role("region", name="Flat view").locator("path[data-region]").first
    box = region.bounding_box()
    assert box
    press(page, "x")
    steer(page, box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(page.get_by_role("status").filter(has_text=re.compile("^Crosshair .*mm, over Region"))).to_be_attached()
    press(page, "Enter")
    expect(page.get_by_role("contentinfo")).to_contain_text("picked:")
    press(page, "x")
    expect(page.locator("[data-crosshair]")).to_have_count(0)


def test_the_crosshair_goes_from_node_to_node_and_drags_one(page: Page) -> None:
    begin(page, two_bars(), "bars.png")
    stop(page, "Shape")
    use(page, "radio", "Change")
    page.get_by_role("group", name="Regions", exact=True).get_by_role("button").first.focus()
    page.keyboard.press("Enter")
    use(page, "button", re.compile("^Nodes$"))
    marks = page.locator("[data-node]")
    expect(marks.first).to_be_visible()
    count = marks.count()
    press(page, "x", "n")
    first = crosshair(page)
    press(page, "n")
    second = crosshair(page)
    assert first != second
    press(page, "Shift+n")
    assert crosshair(page) == first
    paths = "[...document.querySelectorAll('path[data-region]')].map((p) => p.getAttribute('d')).join()"
    before = page.evaluate(paths)
    # Held, moved and let go, the node lies elsewhere; no node came or went.
    press(page, "Space", "ArrowLeft", "ArrowLeft", "ArrowLeft", "Space", "x")
    page.wait_for_function(f"(before) => {paths} !== before", arg=before)
    saved(page)
    expect(marks).to_have_count(count)
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()


def test_a_region_is_picked_in_the_round_by_the_crosshair(page: Page) -> None:
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    solid_seen(page)
    use(page, "button", "Top view")
    use(page, "button", "Enlarge the solid view")
    solid_seen(page)
    page.get_by_role("button", name="Corner view").focus()
    press(page, "x")
    view = page.get_by_role("region", name="Solid view").bounding_box()
    assert view
    x, y = crosshair(page)
    assert view["x"] < x < view["x"] + view["width"]
    # From the middle outwards until a region is met.
    footer = page.get_by_role("contentinfo")
    for by in (0, 48, -48, 96, -96, 144, -144, 192, -192):
        steer(page, x + by, y)
        press(page, "Enter")
        page.wait_for_timeout(150)
        if "picked:" in (footer.text_content() or ""):
            break
    expect(footer).to_contain_text("picked:")
    press(page, "x")


def test_a_name_tag_is_made_by_keys_alone(page: Page) -> None:
    page.goto("/")
    use(page, "button", "New empty piece")
    expect(page.get_by_role("navigation", name="Stops")).to_be_visible()
    press(page, "Alt+3")
    use(page, "button", "Set words")
    expect(page.get_by_text("Click where the words are to stand.")).to_be_visible()
    press(page, "x", "Enter", "x")
    words = page.get_by_role("textbox", name="Text")
    expect(words).to_be_visible()
    words.focus()
    press(page, "Control+a")
    page.keyboard.type("Ines")
    page.keyboard.press("Tab")
    saved(page)
    press(page, "Alt+4")
    use(page, "radio", "Nameplate")
    saved(page)
    taken(page)


def test_a_stamp_is_drawn_and_made_by_keys_alone(page: Page) -> None:
    page.goto("/")
    use(page, "button", "New empty piece")
    expect(page.get_by_role("navigation", name="Stops")).to_be_visible()
    press(page, "Alt+3")
    use(page, "radio", "rectangle")
    use(page, "button", "Drag it out")
    press(page, "x")
    x, y = crosshair(page)
    press(page, "Space")
    steer(page, x + 96, y + 72)
    press(page, "Space", "x")
    saved(page)
    expect(page.get_by_role("contentinfo")).to_contain_text("picked:")
    press(page, "Alt+4")
    use(page, "radio", "Stamp")
    use(page, "radio", "knob")
    saved(page)
    taken(page)


def test_a_coaster_is_made_by_keys_alone(page: Page) -> None:
    page.goto("/")
    use(page, "button", "New empty piece")
    expect(page.get_by_role("navigation", name="Stops")).to_be_visible()
    press(page, "Alt+3")
    use(page, "radio", "star")
    use(page, "button", "Put it on the sheet")
    saved(page)
    press(page, "Alt+4")
    use(page, "radio", "Circle")
    saved(page)
    use(page, "radio", "flush")
    saved(page)
    taken(page)


def taken(page: Page) -> None:
    """The 3MF is exported by keys, is sealed, and no pointer was pressed."""
    press(page, "Alt+5")
    button = page.get_by_role("button", name="Export 3MF")
    expect(button).to_be_enabled()
    button.focus()
    with page.expect_download() as coming:
        page.keyboard.press("Enter")
    bodies = read_3mf(coming.value.path().read_bytes())
    assert bodies
    assert all(check_seal(body.mesh).sealed for body in bodies)
    assert page.evaluate("window.pointers") == 0
