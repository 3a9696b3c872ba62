"""Gather and the flat view: where a picture came from, levelling, even light, and what the view shows."""

import re

import cv2
import numpy as np
from playwright.sync_api import expect

from tests.browser.hand import at_rest, begin, saved, stop
from tests.browser.test_care import drag, tool


def leaning() -> bytes:
    rgb = np.full((240, 320, 3), 255, np.uint8)
    box = cv2.boxPoints(((160, 120), (180, 90), 7)).round().astype(np.int32)
    cv2.fillPoly(rgb, [box], (0, 0, 0), cv2.LINE_AA)
    return cv2.imencode(".png", rgb)[1].tobytes()


def lit() -> bytes:
    grey = np.full((200, 300), 235.0)
    cv2.circle(grey, (150, 100), 60, 40, -1, cv2.LINE_AA)
    grey *= np.linspace(1, 0.5, 300)[None]
    return cv2.imencode(".png", grey.astype(np.uint8))[1].tobytes()


def test_where_a_picture_came_from_is_kept(page, ring_png):
    begin(page, ring_png)
    stop(page, "Gather")
    page.get_by_role("radio", name="Free licence").click()
    saved(page)
    field = page.get_by_role("textbox", name="Source")
    field.fill("a book of seals")
    field.press("Enter")
    saved(page)
    page.reload()
    stop(page, "Gather")
    expect(page.get_by_role("textbox", name="Source")).to_have_value("a book of seals")
    expect(page.get_by_role("radio", name="Free licence")).to_have_attribute("aria-checked", "true")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("textbox", name="Source")).to_have_value("")


def test_a_leaning_picture_is_levelled_by_a_line(page):
    begin(page, leaning())
    stop(page, "Gather")
    at_rest(page)
    before = page.locator("[data-region]").first.evaluate("p => p.getBBox().height / p.getBBox().width")
    tool(page, "Level")
    slope = np.tan(np.radians(7)) * 320 / 240
    drag(page, (0.25, 0.5 - 0.25 * slope), (0.75, 0.5 + 0.25 * slope))
    saved(page)
    expect(page.get_by_role("list", name="Steps of picture care")).to_contain_text("Levelled")
    after = page.locator("[data-region]").first.evaluate("p => p.getBBox().height / p.getBBox().width")
    assert before > 0.58
    assert abs(after - 0.5) < 0.02


def test_light_is_evened_out_once(page):
    begin(page, lit())
    stop(page, "Gather")
    page.get_by_role("button", name="Even light").click()
    saved(page)
    expect(page.get_by_role("button", name="Even light")).to_be_disabled()
    expect(page.locator("[data-region]")).to_have_count(1)
    page.get_by_role("button", name="Remove step 1, light evened out").click()
    expect(page.get_by_role("button", name="Even light")).to_be_enabled()


def test_a_tool_says_what_to_do_and_is_put_down(page, ring_png):
    begin(page, ring_png)
    stop(page, "Gather")
    tool(page, "Flatten")
    expect(page.locator("[data-tool-hint]")).to_contain_text("four corners")
    expect(page.get_by_role("button", name="Flatten", exact=True)).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("Escape")
    expect(page.locator("[data-care]")).to_have_count(0)
    tool(page, "Crop")
    stop(page, "Trace")
    expect(page.locator("[data-care]")).to_have_count(0)


def test_outlines_are_filled_and_nodes_shown_on_demand(page, ring_png):
    begin(page, ring_png)
    stop(page, "Trace")
    region = page.locator("[data-region]").first
    faint = float(region.get_attribute("fill-opacity"))
    fill = page.get_by_role("button", name="Fill the outlines")
    fill.click()
    expect(fill).to_have_attribute("aria-pressed", "true")
    assert float(region.get_attribute("fill-opacity")) > faint
    nodes = page.get_by_role("button", name="Show nodes")
    nodes.click()
    marks = page.locator("[data-nodes] path")
    expect(marks).to_have_count(3)
    # A rim beneath, then the marks themselves: smooth nodes are ticks, corners wedges.
    # The ring has the first, the square the second.
    assert len(re.findall("M", marks.nth(1).get_attribute("d"))) >= 4
    assert len(re.findall("M", marks.nth(2).get_attribute("d"))) == 4
    nodes.click()
    expect(page.locator("[data-nodes]")).to_have_count(0)


def test_settings_are_reset_one_by_one(page, ring_png):
    begin(page, ring_png)
    stop(page, "Trace")
    for label in ("Corners", "Calmness"):
        field = page.get_by_role("textbox", name=label, exact=True)
        field.fill("80")
        field.press("Enter")
        saved(page)
    page.get_by_role("region", name="Curves").get_by_role("button", name="reset").first.click()
    saved(page)
    expect(page.get_by_role("textbox", name="Calmness", exact=True)).to_have_value("50")
    expect(page.get_by_role("textbox", name="Corners", exact=True)).to_have_value("80")


def test_only_the_silhouette_of_a_ring_has_no_hole(page, ring_png):
    begin(page, ring_png)
    stop(page, "Trace")
    ring = page.locator("[data-region]").first
    expect(ring).to_have_attribute("d", re.compile(r"M.*M"))
    page.get_by_role("switch", name="Outer silhouette only").click()
    expect(ring).not_to_have_attribute("d", re.compile(r"M.*M"))
