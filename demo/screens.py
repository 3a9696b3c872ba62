"""Takes the pictures in docs/screenshots from a running Drelo with its demo: python demo/screens.py ADDRESS [NAME …]"""

import re
import sys
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

SHOTS = Path(__file__).parents[1] / "docs" / "screenshots"
FLAGS = ["--no-sandbox", "--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader"]
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


def gather(page: Page) -> None:
    opened(page, "Heron", "Gather")


def trace(page: Page) -> None:
    opened(page, "Snail", "Trace")


def colours(page: Page) -> None:
    opened(page, "badge", "Trace")
    page.get_by_role("button", name="Show nodes").click()


def strokes(page: Page) -> None:
    opened(page, "Wheelbarrow", "Trace")


def shape(page: Page) -> None:
    opened(page, "Pear", "Shape")


def raised(page: Page) -> None:
    opened(page, "crest", "Raise")


def prove(page: Page) -> None:
    opened(page, "Pear", "Prove")


VIEWS = {
    "pieces": pieces,
    "gather": gather,
    "trace": trace,
    "colours": colours,
    "strokes": strokes,
    "shape": shape,
    "raise": raised,
    "prove": prove,
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
