"""A print through the page: begun at Prove, stopped for a change, gone on, and kept in the history."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.hand import begin, stop
from tests.browser.test_raise import two_bars


@pytest.fixture
def printing(page):
    """A print that has just been begun, played in real time."""
    begin(page, two_bars(), "bars.png")
    stop(page, "Prove")
    expect(page.locator("canvas[data-layer]")).to_be_visible()
    page.get_by_role("button", name="Print it").click()
    page.get_by_role("button", name="Print on the stand-in").click()
    page.get_by_role("radio", name="real time").click()
    yield page
    page.goto("/printer")
    expect(page.get_by_role("region", name="Printer")).to_be_visible()
    if page.get_by_role("button", name="Stop the print").count():
        page.get_by_role("button", name="Stop the print").click()
        expect(page.get_by_role("button", name="Stop the print")).to_have_count(0)


def test_a_print_waits_for_the_change_goes_on_and_is_kept(printing):
    page = printing
    page.get_by_role("radio", name="600 ×").click()
    expect(page.get_by_text("Waiting for you to change filament")).to_be_visible()
    expect(page.get_by_role("alert").filter(has_text="take out")).to_be_visible()
    page.get_by_role("button", name="Filament changed, continue").click()
    prints = page.get_by_role("list", name="Prints").get_by_role("listitem")
    expect(prints.first).to_contain_text("done")
    expect(prints.first).to_contain_text(" g")
    page.goto("/printer")
    expect(page.get_by_role("img", name="What stands on the bed")).to_be_visible()
    expect(page.get_by_role("region", name="Printer").get_by_role("status")).to_have_text("Done")


def test_it_is_paused_fails_and_says_so(printing):
    page = printing
    page.get_by_role("button", name="Pause").click()
    expect(page.get_by_role("region", name="Printer").get_by_role("status")).to_have_text("Paused")
    page.reload()
    stop(page, "Prove")
    page.get_by_role("button", name="Resume").click()
    page.get_by_role("button", name="Make it fail").click()
    expect(page.get_by_role("list", name="Prints").get_by_role("listitem").first).to_contain_text("failed at layer")
    expect(page.get_by_role("button", name="Print on the stand-in")).to_be_enabled()
