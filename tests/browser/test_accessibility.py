"""Every main view, light and dark: axe-core finds nothing against WCAG 2.2 AA."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hand import begin, saved, stop, tick
from tests.browser.test_raise import two_bars

ROOT = Path(__file__).resolve().parents[2]
AXE = (ROOT / "frontend/node_modules/axe-core/axe.min.js").read_text()
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]


def faults(page: Page) -> list[str]:
    """What axe finds: its rule, what it says, and where."""
    page.evaluate(AXE)
    options = json.dumps({"runOnly": {"type": "tag", "values": RULES}})
    found: dict[str, Any] = page.evaluate(f"axe.run(document, {options})")
    return [
        f"{fault['id']}: {fault['help']}: {node['html'][:160]} {(node.get('any') or [{}])[0].get('message', '')[:160]}"
        for fault in found["violations"]
        for node in fault["nodes"]
    ]


def faults_by_day_and_night(page: Page) -> list[str]:
    found = []
    for scheme in ("light", "dark"):
        page.emulate_media(color_scheme=scheme, reduced_motion="reduce")
        # Colours change over.
        page.wait_for_timeout(400)
        found += [f"{scheme}: {fault}" for fault in faults(page)]
    page.emulate_media(color_scheme="light")
    return found


@pytest.fixture(params=["light", "dark"])
def shown(page: Page, request: pytest.FixtureRequest) -> Page:
    page.emulate_media(color_scheme=request.param, reduced_motion="reduce")
    return page


@pytest.mark.parametrize("name", ["Gather", "Trace", "Shape", "Raise", "Prove"])
def test_the_bench_at_each_stop(shown: Page, name: str) -> None:
    begin(shown, two_bars(), "bars.png")
    stop(shown, name)
    if name == "Prove":
        expect(shown.locator("canvas[data-layer]")).to_be_visible()
        expect(shown.get_by_role("heading", name="What won’t print")).to_be_visible()
    elif name == "Raise":
        expect(shown.get_by_role("list", name="What won’t print")).to_be_visible()
    else:
        expect(shown.get_by_role("region", name="Flat view")).to_be_visible()
    saved(shown)
    assert faults(shown) == []


@pytest.mark.parametrize("path", ["/", "/beds", "/printer", "/printers", "/storage"])
def test_the_pages_beside_the_bench(shown: Page, path: str) -> None:
    shown.goto(path)
    expect(shown.get_by_role("heading", level=1)).to_be_visible()
    # What the page asks for is there; the printer is asked again and again.
    shown.wait_for_timeout(800)
    assert faults(shown) == []


def test_the_past_of_a_piece(shown: Page) -> None:
    begin(shown, two_bars(), "bars.png")
    shown.get_by_role("link", name="Versions").click()
    expect(shown.get_by_role("table", name="The solid")).not_to_contain_text("…")
    assert faults(shown) == []


def test_a_bed_plan(shown: Page) -> None:
    begin(shown, two_bars(), "bars.png")
    saved(shown)
    shown.get_by_role("link", name="All pieces").click()
    tick(shown, "Bars")
    shown.get_by_role("button", name="Put on a bed").click()
    expect(shown.get_by_text("everything fits")).to_be_visible()
    shown.get_by_role("button", name=re.compile("^Bars, at")).focus()
    assert faults(shown) == []


def test_the_windows_over_the_bench(shown: Page) -> None:
    begin(shown, two_bars(), "bars.png")
    saved(shown)
    shown.keyboard.press("?")
    expect(shown.get_by_role("dialog")).to_be_visible()
    assert faults(shown) == []
    shown.keyboard.press("Escape")
    stop(shown, "Raise")
    shown.get_by_role("button", name="Change the filaments").first.click()
    expect(shown.get_by_role("dialog")).to_be_visible()
    assert faults(shown) == []
