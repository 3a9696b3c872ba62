"""Takes the pictures in docs/screenshots from a running Drelo with its demo: python demo/screens.py ADDRESS [NAME …]"""

import re
import sys
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

SHOTS = Path(__file__).parents[1] / "docs" / "screenshots"
FLAGS = ["--no-sandbox", "--enable-unsafe-swiftshader"]
FLAGS += [
    "--ignore-gpu-blocklist",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-gpu-rasterization",
]
# The solid view turns in softly; a picture is taken when it stands still.
SETTLE = 2500


def opened(page: Page, piece: str, stop: str) -> None:
    page.goto("/")
    page.get_by_role("link", name=re.compile(piece)).first.click()
    expect(page.locator("[data-region]").first).to_be_visible()
    page.get_by_role("navigation", name="Stops").get_by_role("button", name=stop).click()


def pieces(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_role("link").first).to_be_visible()
    page.wait_for_function("() => [...document.images].every((i) => i.complete && i.naturalWidth > 0)")


def gather(page: Page) -> None:
    opened(page, "Heron", "Gather")


def trace(page: Page) -> None:
    opened(page, "Snail", "Trace")


def colours(page: Page) -> None:
    opened(page, "badge", "Trace")
    page.get_by_role("button", name="Show nodes").click()


def strokes(page: Page) -> None:
    opened(page, "Wheelbarrow", "Trace")


def part(page: Page, name: str) -> None:
    page.get_by_role("radio", name=re.compile(f"^{name}")).click()


def look_over(page: Page) -> None:
    """Crest: two attempts kept, one compared by wipe."""
    opened(page, "crest", "Trace")
    part(page, "Look over")
    page.get_by_role("button", name="Keep the trace as an attempt").click()
    part(page, "Settings")
    level = page.get_by_role("textbox", name="Calmness", exact=True)
    level.fill("100")
    level.press("Enter")
    part(page, "Look over")
    page.get_by_role("button", name=re.compile("^Compare Ink.* by wipe$")).first.click()
    page.get_by_role("button", name="Show nodes").click()


def pen(page: Page) -> None:
    """Pear: an open line of the pen that clings to the outer edge."""
    opened(page, "Pear coaster", "Trace")
    part(page, "Pen")
    page.get_by_role("button", name="Draw over the picture").click()
    page.wait_for_timeout(SETTLE)
    box = page.locator("image[data-underlay]").bounding_box()
    assert box
    for x, y, click in ((0.3, 0.56, True), (0.2, 0.84, True), (0.5, 0.96, True), (0.73, 0.84, False)):
        page.mouse.move(box["x"] + x * box["width"], box["y"] + y * box["height"])
        page.wait_for_timeout(500)
        if click:
            page.mouse.down()
            page.mouse.up()
            page.wait_for_timeout(800)


def shape(page: Page) -> None:
    """Plot Fourteen: the words picked, their numbers beside."""
    opened(page, "Plot Fourteen", "Shape")
    page.get_by_role("complementary", name="Contents").get_by_role(
        "button", name=re.compile("Plot Fourteen")
    ).first.click()


def nodes(page: Page) -> None:
    """Pear: its nodes and handles under the hand."""
    opened(page, "Pear coaster", "Shape")
    page.get_by_role("complementary", name="Contents").get_by_role("button", name=re.compile("^Core")).click()
    part(page, "Change")
    page.get_by_role("button", name="Nodes", exact=True).click()
    page.wait_for_timeout(SETTLE)
    box = page.locator("[data-ground]").bounding_box()
    assert box
    page.mouse.move(box["x"] + 0.3 * box["width"], box["y"] + 0.48 * box["height"])
    page.mouse.down()
    page.mouse.move(box["x"] + 0.64 * box["width"], box["y"] + 0.74 * box["height"], steps=4)
    page.mouse.up()


def stamp(page: Page) -> None:
    opened(page, "Snail", "Raise")


def cutter(page: Page) -> None:
    opened(page, "Pear biscuit cutter", "Raise")


def nameplate(page: Page) -> None:
    opened(page, "Plot Fourteen", "Raise")


def coaster(page: Page) -> None:
    opened(page, "Watering", "Raise")


def raised(page: Page) -> None:
    opened(page, "crest", "Raise")


def prove(page: Page) -> None:
    opened(page, "Watering-can coaster", "Prove")
    slider = page.get_by_role("slider", name="Layer", exact=True)
    slider.press("End")
    for _ in range(6):
        slider.press("ArrowDown")
    slider.blur()


def printers(page: Page) -> None:
    page.goto("/printers")


def storage(page: Page) -> None:
    page.goto("/storage")


def cabinet(page: Page) -> None:
    opened(page, "Pear coaster", "Gather")
    page.get_by_role("button", name="Search the cabinet").click()
    page.get_by_role("searchbox", name="Search the cabinet").fill("garden")
    page.wait_for_function("() => [...document.images].every((i) => i.complete && i.naturalWidth > 0)")


def filaments(page: Page) -> None:
    opened(page, "crest", "Raise")
    page.get_by_role("button", name="Change the filaments").first.click()


VIEWS = {
    "pieces": pieces,
    "gather": gather,
    "trace": trace,
    "colours": colours,
    "strokes": strokes,
    "look-over": look_over,
    "pen": pen,
    "shape": shape,
    "nodes": nodes,
    "raise": raised,
    "stamp": stamp,
    "cutter": cutter,
    "nameplate": nameplate,
    "coaster": coaster,
    "prove": prove,
    "cabinet": cabinet,
    "filaments": filaments,
    "printers": printers,
    "storage": storage,
}


def main() -> None:
    address, *names = sys.argv[1:]
    SHOTS.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
        page = context.new_page()
        for name in names or VIEWS:
            VIEWS[name](page)
            page.wait_for_timeout(SETTLE)
            page.screenshot(path=SHOTS / f"{name}.png")
            print(name)
        browser.close()


if __name__ == "__main__":
    main()
