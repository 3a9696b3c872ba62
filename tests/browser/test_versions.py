"""A piece's past on the page: read, looked at, compared, named, gone back to, begun from."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.hand import begin, saved, stop
from tests.browser.test_raise import two_bars


def thickness(page: Page, value: str) -> None:
    field = page.get_by_role("textbox", name="Thickness").first
    field.fill(value)
    field.press("Enter")
    saved(page)


def worked_on(page: Page) -> None:
    """A piece of four steps, the base thicker each time, then a region left out."""
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    for value in ("2.4", "2.8", "3.2"):
        thickness(page, value)
    page.get_by_role("group", name="Regions", exact=True).get_by_role("button").first.click()
    page.keyboard.press("Delete")
    saved(page)
    page.get_by_role("link", name="Versions").click()
    expect(page.get_by_role("heading", name="Versions of Bars")).to_be_visible()


def test_the_past_is_read_and_a_line_of_several_steps_opens(page: Page) -> None:
    worked_on(page)
    past = page.get_by_role("navigation", name="Versions")
    expect(past.get_by_role("heading", name="Today")).to_be_visible()
    expect(past.get_by_text("Region left out")).to_be_visible()
    expect(past.get_by_role("button", name="Base thickness 2 → 3.2 mm")).to_be_visible()
    past.get_by_role("button", name="3 steps").click()
    past.get_by_role("button", name="Base thickness 2.4 → 2.8 mm").click()
    about = page.get_by_role("complementary", name="About this version")
    since = about.get_by_role("region", name="What has changed since")
    expect(since).to_contain_text("Base thickness 2.8 → 3.2 mm")
    expect(since).to_contain_text("Regions no longer there")
    solid = about.get_by_role("table", name="The solid")
    expect(solid.get_by_role("row", name=re.compile("Height"))).to_have_text("Height, mm44.4")


def test_a_version_is_wiped_against_now_and_seen_as_a_solid(page: Page) -> None:
    worked_on(page)
    page.get_by_role("navigation", name="Versions").get_by_role("button", name=re.compile("^Begun")).click()
    version = page.get_by_role("region", name="Version", exact=True)
    expect(version.get_by_role("img", name="2 regions in this version")).to_be_visible()
    version.get_by_role("button", name="Wipe between then and now").click()
    handle = version.get_by_role("slider", name="Wipe")
    expect(handle).to_have_attribute("aria-valuenow", "50")
    handle.press("ArrowRight")
    expect(handle).to_have_attribute("aria-valuenow", "52")
    version.get_by_role("radio", name="Solid").click()
    expect(version.get_by_role("img", name="The solid of this version")).to_be_visible()


def test_a_version_is_named_and_gone_back_to_and_nothing_is_lost(page: Page) -> None:
    worked_on(page)
    past = page.get_by_role("navigation", name="Versions")
    past.get_by_role("button", name=re.compile("^Begun")).click()
    name = page.get_by_role("textbox", name="Name of this version")
    name.fill("As traced")
    name.press("Enter")
    expect(past.get_by_role("button", name=re.compile("As traced"))).to_be_visible()
    past.get_by_role("radio", name="Named").click()
    expect(past.get_by_role("listitem")).to_have_count(1)
    page.get_by_role("button", name="Go back to this").click()
    expect(page.get_by_role("navigation", name="Stops")).to_be_visible()
    stop(page, "Raise")
    expect(page.get_by_role("textbox", name="Thickness").first).to_have_value("2")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("textbox", name="Thickness").first).to_have_value("3.2")
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_role("textbox", name="Thickness").first).to_have_value("2")
    saved(page)
    page.get_by_role("link", name="Versions").click()
    expect(past.get_by_role("button", name="Went back to As traced")).to_be_visible()


def test_a_new_piece_begins_from_a_version(page: Page) -> None:
    worked_on(page)
    page.get_by_role("navigation", name="Versions").get_by_role("button", name=re.compile("^Begun")).click()
    before = page.url
    page.get_by_role("button", name="New piece from this").click()
    expect(page.get_by_role("textbox", name="Name of the piece")).to_have_value("Bars, earlier version")
    assert page.url != before
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()
