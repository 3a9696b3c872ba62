"""The Trace stop: colours merged, dropped and named background; strokes with one width; heights kept through it all."""

import re

import cv2
import numpy as np
from playwright.sync_api import expect

from tests.browser.hand import begin, fill, saved, stop


def packed(rgb: np.ndarray) -> bytes:
    return cv2.imencode(".png", rgb[..., ::-1])[1].tobytes()


def bands() -> bytes:
    rgb = np.full((160, 240, 3), 255, np.uint8)
    for k, colour in enumerate([(200, 40, 40), (40, 160, 60), (40, 60, 200)]):
        rgb[30:130, 30 + 60 * k : 90 + 60 * k] = colour
    return packed(rgb)


def lines() -> bytes:
    rgb = np.full((160, 240, 3), 255, np.uint8)
    cv2.line(rgb, (30, 50), (210, 50), (0, 0, 0), 4, cv2.LINE_AA)
    cv2.line(rgb, (30, 110), (210, 110), (0, 0, 0), 8, cv2.LINE_AA)
    return packed(rgb)


def take_as(page, mode: str) -> None:
    stop(page, "Trace")
    page.get_by_role("radio", name=mode).click()
    saved(page)


def test_colours_are_merged_dropped_and_named_background(page):
    begin(page, bands())
    take_as(page, "Colours")
    regions = page.locator("[data-region]")
    expect(regions).to_have_count(3)
    colours = page.get_by_role("list", name="Colours of the picture")
    expect(colours.get_by_role("button")).to_have_count(4)
    expect(colours.get_by_role("button", name="#ffffff, background")).to_be_visible()
    colours.get_by_role("button", name="#c82828").click()
    colours.get_by_role("button", name="#28a03c").click()
    page.get_by_role("button", name="Merge").click()
    expect(regions).to_have_count(2)
    colours.get_by_role("button", name="#283cc8").click()
    page.get_by_role("button", name="Background", exact=True).click()
    expect(colours.get_by_role("button", name="#283cc8, background")).to_be_visible()
    page.get_by_role("button", name="find them again").click()
    expect(regions).to_have_count(3)
    page.keyboard.press("Control+z")
    expect(colours.get_by_role("button", name="#283cc8, background")).to_be_visible()


def test_a_palette_is_typed_kept_and_used_for_the_next_picture(page):
    begin(page, bands())
    take_as(page, "Colours")
    colours = page.get_by_role("list", name="Colours of the picture")
    colours.get_by_role("button", name="#c82828").click()
    page.get_by_role("button", name="Drop", exact=True).click()
    expect(page.locator("[data-region]")).to_have_count(2)
    typed = page.get_by_label("Colour to add")
    typed.fill("red")
    expect(page.get_by_role("button", name="Add", exact=True)).to_be_disabled()
    typed.fill("C82828")
    typed.press("Enter")
    saved(page)
    expect(page.locator("[data-region]")).to_have_count(3)
    page.get_by_role("button", name="Keep this palette").click()
    kept = page.get_by_role("list", name="Kept palettes").get_by_role("button")
    expect(kept.first).to_have_attribute("aria-pressed", "true")
    # The next picture has another red, and no green.
    rgb = np.full((160, 240, 3), 255, np.uint8)
    rgb[30:130, 30:90], rgb[30:130, 150:210] = (180, 30, 60), (40, 60, 200)
    begin(page, packed(rgb))
    take_as(page, "Colours")
    kept.first.click()
    saved(page)
    expect(
        page.get_by_role("list", name="Colours of the picture").get_by_role("button", name="#c82828")
    ).to_be_visible()
    kept.nth(1).click()
    expect(page.get_by_role("list", name="Kept palettes")).to_have_count(0)


def test_filaments_of_the_picture_s_own_colours(page):
    begin(page, bands())
    take_as(page, "Colours")
    page.get_by_role("button", name="Make filaments of these colours").click()
    expect(page.get_by_role("button", name="Make filaments of these colours")).to_have_count(0)
    saved(page)
    fills = page.locator("[data-region]").evaluate_all("paths => paths.map((p) => p.getAttribute('fill'))")
    assert sorted(fills) == ["#283cc8", "#28a03c", "#c82828"]


def test_strokes_take_one_width(page):
    begin(page, lines())
    take_as(page, "Strokes")
    regions = page.locator("[data-region]")
    expect(regions).to_have_count(2)
    page.get_by_role("switch", name="One width for all").click()
    saved(page)
    fill(page, "Width", "3")
    saved(page)
    heights = regions.evaluate_all("paths => paths.map((p) => p.getBBox().height)")
    assert all(abs(h - 3) < 0.15 for h in heights)


def test_heights_stay_when_the_picture_is_traced_in_another_way(page, ring_png):
    begin(page, ring_png)
    page.locator("[data-region]").first.click(position={"x": 4, "y": 60}, force=True)
    stop(page, "Raise")
    page.get_by_role("complementary", name="Contents").get_by_role("button", name=re.compile("Region 1")).click()
    fill(page, "Height", "4.5")
    saved(page)
    take_as(page, "Colours")
    expect(page.get_by_role("complementary", name="Contents")).to_contain_text("4.5 mm")


def test_specks_are_shown_before_they_go_and_nodes_on_demand(page):
    rgb = np.full((160, 240, 3), 255, np.uint8)
    cv2.circle(rgb, (120, 80), 50, (0, 0, 0), -1, cv2.LINE_AA)
    rgb[10:16, 10:16] = 0
    begin(page, packed(rgb))
    stop(page, "Trace")
    expect(page.locator("[data-region]")).to_have_count(2)
    fill(page, "Specks", "60")
    expect(page.locator("[data-region]")).to_have_count(1)
    expect(page.locator("[data-lost]")).to_have_count(1)
    expect(page.get_by_text("1 speck dropped, struck out in the view")).to_be_visible()
    page.get_by_role("button", name="Show nodes").click()
    expect(page.locator("[data-nodes]")).to_have_count(1)
