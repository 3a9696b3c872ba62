"""The Raise stop: the four forms from outline to sealed bytes, the ladder by drag and by keyboard."""

import re

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from drelo.core.solid.seal import check_seal
from drelo.formats.stl import read_stl
from tests.browser.hand import begin, saved, solid_seen, stop


def two_bars() -> bytes:
    image = np.full((240, 320), 255, np.uint8)
    image[40:200, 40:110] = 0
    image[40:120, 180:280] = 0
    return cv2.imencode(".png", image)[1].tobytes()


def taken(page: Page) -> bytes:
    """The STL that is taken away."""
    page.get_by_role("banner").get_by_role("button", name="Take away").click()
    page.get_by_role("radio", name="STL").click()
    with page.expect_download() as coming:
        page.get_by_role("button", name="Take STL").click()
    expect(page.get_by_text("Sealed: read back and checked")).to_be_visible()
    page.keyboard.press("Escape")
    return coming.value.path().read_bytes()


def form(page: Page, name: str) -> None:
    page.get_by_role("radiogroup", name="Form").get_by_role("radio", name=name).click()
    expect(page.get_by_role("radiogroup", name="Form").get_by_role("radio", name=name)).to_be_checked()
    saved(page)


@pytest.mark.parametrize(
    ("name", "height", "parts"), [("Relief", 3.2, 2), ("Stamp", 5.7, 2), ("Cutter", 14, 1), ("Nameplate", 3.6, 1)]
)
def test_each_form_goes_from_outline_to_sealed_bytes(page, name, height, parts):
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    if name != "Relief":
        form(page, name)
    solid_seen(page)
    mesh = read_stl(taken(page))
    assert check_seal(mesh).sealed
    assert mesh.size[2] == pytest.approx(height, abs=1e-4)
    assert int(mesh.shells().max()) + 1 == parts


def test_a_form_is_switched_and_back_with_heights_kept(page):
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    tag = page.get_by_role("slider", name=re.compile("^Height of"))
    tag.focus()
    page.keyboard.press("ArrowUp")
    saved(page)
    expect(page.get_by_role("slider", name=re.compile("^Height of"))).to_have_attribute("aria-valuenow", "1.4")
    form(page, "Stamp")
    expect(page.get_by_role("img", name="The print it makes")).to_be_visible()
    expect(page.get_by_role("region", name="Ladder")).to_have_count(0)
    page.get_by_role("radio", name="knob").click()
    saved(page)
    expect(page.get_by_role("contentinfo")).to_contain_text("23.7 mm")
    form(page, "Cutter")
    expect(page.get_by_role("img", name="The biscuit it cuts")).to_be_visible()
    form(page, "Relief")
    expect(page.get_by_role("slider", name=re.compile("^Height of"))).to_have_attribute("aria-valuenow", "1.4")


def test_the_ladder_is_dragged_and_snaps_to_layers(page):
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    tag = page.get_by_role("slider", name=re.compile("^Height of"))
    expect(tag).to_have_attribute("aria-valuenow", "1.2")
    box = tag.bounding_box()
    x, y = box["x"] + 20, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 60, steps=6)
    page.mouse.up()
    expect(tag).not_to_have_attribute("aria-valuenow", "1.2")
    saved(page)
    height = float(tag.get_attribute("aria-valuenow"))
    assert height > 1.2
    # The base is 2 mm, a layer 0.2: every rung is a whole number of layers.
    assert (2 + height) / 0.2 == pytest.approx(round((2 + height) / 0.2), abs=1e-6)
    assert read_stl(taken(page)).size[2] == pytest.approx(2 + height, abs=1e-5)


def test_edges_fall_off_and_come_back(page):
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    page.get_by_role("radiogroup", name="Edge").or_(page.get_by_role("group", name="Edge")).get_by_role(
        "radio", name="bevel"
    ).click()
    saved(page)
    bevelled = read_stl(taken(page))
    page.get_by_role("radiogroup", name="Edge").or_(page.get_by_role("group", name="Edge")).get_by_role(
        "radio", name="straight"
    ).click()
    saved(page)
    straight = read_stl(taken(page))
    assert bevelled.volume < straight.volume
    assert bevelled.size == pytest.approx(straight.size)
