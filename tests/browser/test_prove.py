"""Prove: the bed layer by layer, what the print comes to, what will not print and its mends."""

from __future__ import annotations

import re

import cv2
import numpy as np
import pytest
from playwright.sync_api import Locator, Page, Route, expect

from tests.browser.hand import begin, fill, saved, stop
from tests.browser.test_raise import two_bars


def layers(page: Page) -> Locator:
    return page.get_by_role("slider", name="Layer", exact=True)


def shown(page: Page, layer: int) -> None:
    expect(page.locator(f"canvas[data-layer='{layer - 1}']")).to_be_visible()


def inked(page: Page) -> float:
    """The share of the bed's picture that is drawn in the colour of a filament (Night, dark blue)."""
    png = page.locator("canvas[data-layer]").screenshot()
    pixels = cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_COLOR).astype(int)
    return float((abs(pixels - (77, 58, 46)).max(axis=2) < 24).mean())


@pytest.fixture
def proved(page: Page) -> Page:
    begin(page, two_bars(), "bars.png")
    stop(page, "Prove")
    shown(page, 16)
    return page


def test_layers_are_gone_through_by_keys_and_told(proved):
    slider = layers(proved)
    expect(slider).to_have_attribute("aria-valuetext", "layer 16 of 16, 3.20 mm")
    slider.focus()
    proved.keyboard.press("Home")
    shown(proved, 1)
    assert inked(proved) > 0.05
    proved.keyboard.press("ArrowUp")
    shown(proved, 2)
    proved.keyboard.press("Shift+ArrowUp")
    shown(proved, 12)
    expect(slider).to_have_attribute("aria-valuenow", "12")
    assert inked(proved) < 0.02
    proved.keyboard.press("End")
    shown(proved, 16)


def test_the_lowest_layers_are_seen_while_the_rest_is_on_its_way(page):
    held = []
    is_held = True

    def hold(route: Route) -> None:
        response = route.fetch()
        # The lowest layers may be seen before the answer is there.
        if is_held:
            held.append((route, response))
        else:
            route.fulfill(response=response)

    # Before the piece is there: where the hand rests for long it is made ahead.
    page.route("**/rehearsal", hold)
    begin(page, two_bars(), "bars.png")
    stop(page, "Prove")
    shown(page, 2)
    view = page.get_by_role("region", name="Layer view")
    expect(view.get_by_text("layer 2 ·")).to_be_visible()
    expect(view.get_by_text("Rehearsing the print …")).to_be_visible()
    assert inked(page) > 0.05
    is_held = False
    for route, response in held:
        route.fulfill(response=response)
    shown(page, 16)
    expect(view.get_by_text("layer 16 of 16")).to_be_visible()
    expect(view.get_by_text("Rehearsing the print …")).to_be_hidden()


def test_playing_runs_to_the_last_layer_and_stops(proved):
    layers(proved).press("Home")
    proved.get_by_role("button", name="Play the layers").click()
    expect(proved.get_by_role("button", name="Stop playing the layers")).to_be_visible()
    shown(proved, 16)
    expect(proved.get_by_role("button", name="Play the layers")).to_be_visible()


def test_a_change_of_filament_leads_to_its_layer(proved):
    changes = proved.get_by_role("list", name="Filament changes")
    expect(changes.get_by_role("listitem")).to_have_text(["layer 11, z 2.0 mm: take out Night PLA, load Cream PLA"])
    changes.get_by_role("button").click()
    shown(proved, 11)
    with proved.expect_download() as kept:
        proved.get_by_role("button", name="Save the list as text").click()
    assert kept.value.path().read_text() == "layer 11, z 2.0 mm: take out Night PLA, load Cream PLA\n"
    layers(proved).press("Home")
    proved.get_by_role("button", name=re.compile("^11: layer 11")).click()
    shown(proved, 11)


def test_a_rehearsal_that_was_cleared_away_is_made_again(proved):
    proved.evaluate(
        "() => fetch('/api/storage/empty', {method: 'POST', body: JSON.stringify({what: 'derived'}),"
        " headers: {'Content-Type': 'application/json'}})"
    )
    layers(proved).press("Home")
    shown(proved, 1)
    assert inked(proved) > 0.05


def test_copies_presets_and_the_printer_change_what_it_comes_to(proved):
    print_ = proved.get_by_role("region", name="The print", exact=True)
    before = print_.text_content()
    fill(proved, "Copies", "6")
    expect(print_).to_contain_text("6 copies")
    saved(proved)
    proved.get_by_role("radio", name="solid").click()
    saved(proved)
    expect(proved.get_by_role("radio", name="solid")).to_be_checked()
    proved.get_by_label("Printer", exact=True).select_option(label="Round bed with changer")
    expect(proved.locator("canvas[data-layer]")).to_have_attribute("aria-label", re.compile("Round bed with changer"))
    assert print_.text_content() != before
    # It is the piece's: it stands after a reload, and goes with undo.
    proved.reload()
    expect(proved.get_by_role("textbox", name="Copies")).to_have_value("6")
    proved.keyboard.press("Control+z")
    saved(proved)
    expect(proved.get_by_label("Printer", exact=True)).to_have_value("plain")


def test_a_height_between_two_layers_is_found_and_rounded(page):
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    fill(page, "Height", "1.3")
    saved(page)
    stop(page, "Prove")
    troubles = page.get_by_role("list", name="What won’t print")
    troubles.get_by_role("button", name=re.compile("^height between two layers")).click()
    expect(page.get_by_role("region", name="Layer view").get_by_role("status").first).to_contain_text("whole number")
    page.get_by_role("button", name="Round to a layer").click()
    expect(troubles.get_by_role("button", name=re.compile("^height between two layers"))).to_have_count(0)
    # The base follows both bars, so that nothing holds one to the other.
    page.get_by_role("button", name="Use one plate: loose part").click()
    saved(page)
    expect(page.get_by_text("Every part gets printed")).to_be_visible()
    stop(page, "Raise")
    tags = page.get_by_role("slider", name=re.compile("^Height of"))
    expect(tags.first).to_have_attribute("aria-valuenow", re.compile(r"^1\.[24]$"))


def test_printers_are_added_and_changed_on_a_page_of_their_own(page):
    page.goto("/printers")
    page.get_by_role("button", name="Add a copy").click()
    name = page.get_by_role("textbox", name="Name of the printer")
    expect(name).to_have_value("Bench printer, copy")
    name.fill("Small one")
    name.press("Enter")
    expect(page.get_by_role("navigation", name="Printers").get_by_role("button", name="Small one")).to_be_visible()
    fill(page, "Width", "120")
    expect(page.get_by_role("navigation", name="Printers")).to_contain_text("120 × 220 × 250 mm")
    page.reload()
    page.get_by_role("button", name="Small one").click()
    expect(page.get_by_role("textbox", name="Width", exact=True)).to_have_value("120")
    page.get_by_role("button", name="Remove Small one").click()
    expect(page.get_by_role("button", name="Small one", exact=True)).to_have_count(0)


def test_storage_is_told_and_the_trash_gives_back(page):
    begin(page, two_bars(), "thrown away.png")
    page.goto("/")
    page.get_by_role("button", name="Delete Thrown away").click()
    page.get_by_role("link", name="Storage").click()
    expect(page.get_by_role("heading", name="In the trash")).to_be_visible()
    page.get_by_role("button", name="Bring back Thrown away").first.click()
    expect(page.get_by_text("back among your pieces").first).to_be_visible()
    page.get_by_role("button", name="Clear").click()
    expect(page.get_by_text("they are made again when you need them").first).to_be_visible()
    page.get_by_role("link", name="All pieces").first.click()
    expect(page.get_by_role("link", name="Thrown away").first).to_be_visible()
