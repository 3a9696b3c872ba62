"""The Raise stop: the four forms from outline to sealed bytes, the ladder by drag and by keyboard."""

import re

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from drelo.core.solid.seal import check_seal
from drelo.formats.archive import unzipped
from drelo.formats.stl import read_stl
from drelo.formats.threemf import read_3mf
from tests.browser.hand import begin, saved, solid_seen, stop, taken


def two_bars() -> bytes:
    image = np.full((240, 320), 255, np.uint8)
    image[40:200, 40:110] = 0
    image[40:120, 180:280] = 0
    return cv2.imencode(".png", image)[1].tobytes()


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
    expect(page.get_by_role("contentinfo")).to_contain_text("20.2 mm")
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


def bars_from_above(page: Page) -> tuple[dict, float]:
    """The box of the solid view that shows two bars from above, and px a mm in it."""
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    solid_seen(page)
    page.get_by_role("button", name="Top view").click()
    box = page.locator("section[aria-label='Solid view'] canvas").bounding_box()
    assert box
    # The longer side (66 mm) fills 0.86 of the view; a bar lies on either side of the middle.
    return box, min(box["width"], box["height"]) * 0.86 / 66


def test_the_solid_follows_a_height_before_the_server_answers(page):
    box, px = bars_from_above(page)
    held = []
    page.route(re.compile(r"/(solid|edits)$"), lambda route: held.append(route))
    page.get_by_role("slider", name=re.compile("^Height of")).press("Shift+ArrowUp")
    page.wait_for_function("() => performance.getEntriesByName('drelo-lift').length > 0")
    page.get_by_role("button", name="Measure between two points").click()
    y = box["y"] + box["height"] / 2 - 10 * px
    # On the margin of the base, and on the bar.
    for across in (3.5, 18):
        page.mouse.click(box["x"] + box["width"] / 2 + across * px, y)
    expect(page.get_by_text(re.compile(r", up 3\.2$"))).to_be_visible()
    assert held
    for route in held:
        route.continue_()
    page.unroute_all()
    saved(page)
    assert read_stl(taken(page)).size[2] == pytest.approx(5.2, abs=1e-4)


def test_the_ladder_goes_by_keys_and_keeps_the_focus(page):
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    tag = page.get_by_role("slider", name=re.compile("^Height of"))
    tag.focus()
    for height in ("1.4", "1.6"):
        page.keyboard.press("ArrowUp")
        expect(tag).to_have_attribute("aria-valuenow", height)
        expect(tag).to_be_focused()
    page.keyboard.press("Shift+ArrowDown")
    expect(tag).to_have_attribute("aria-valuenow", "-0.4")
    saved(page)
    page.keyboard.press("Control+z")
    expect(tag).to_have_attribute("aria-valuenow", "1.6")


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


def words(page: Page, text: str) -> None:
    """A piece of words alone, made a nameplate."""
    page.goto("/")
    page.get_by_role("button", name="New empty piece").click()
    page.wait_for_url(re.compile("/bench/"))
    stop(page, "Shape")
    page.get_by_role("button", name="Set words").click()
    box = page.locator("[data-ground]").bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.get_by_role("textbox", name="Text", exact=True).fill(text)
    page.get_by_role("textbox", name="Height of capitals").focus()
    saved(page)
    stop(page, "Raise")
    form(page, "Nameplate")


def test_a_batch_of_ten_names_is_made_and_stopped(page):
    words(page, "Ida")
    stop(page, "Prove")
    names = [f"Plot {n}" for n in ("One", "Two", "Three", "Four", "Five", "Six", "Seven", "Eight", "Nine", "Ten")]
    page.get_by_role("textbox", name="Names, one a line").fill("\n".join(names))
    make = page.get_by_role("button", name="Make all of them")
    make.click()
    page.get_by_role("button", name="Stop", exact=True).click()
    expect(page.get_by_text(re.compile("Stopped after"))).to_be_visible()
    with page.expect_download() as coming:
        make.click()
    expect(page.get_by_text(re.compile("10 pieces, 1 bed, each sealed"))).to_be_visible()
    bodies = read_3mf(coming.value.path().read_bytes())
    assert {body.name.split(":")[0] for body in bodies} == set(names)
    assert all(check_seal(body.mesh).sealed for body in bodies)


def thin() -> bytes:
    """A block, and a bar that is far too thin at the size that art is brought in with."""
    image = np.full((400, 600), 255, np.uint8)
    image[60:340, 60:300] = 0
    image[60:340, 420:421] = 0
    return cv2.imencode(".png", image)[1].tobytes()


def test_a_weak_spot_is_marked_and_mended_with_one_click(page):
    begin(page, thin(), "thin.png")
    stop(page, "Raise")
    page.get_by_role("radiogroup", name="Shape of the base").get_by_role("radio", name="Box").click()
    saved(page)
    spots = page.get_by_role("list", name="What won’t print")
    expect(spots.get_by_text("too thin to print")).to_be_visible()
    expect(page.locator("[data-troubles]")).to_have_attribute("data-troubles", "1")
    # The same list, of the same places, at Prove.
    stop(page, "Prove")
    expect(spots.get_by_text("too thin to print")).to_be_visible()
    stop(page, "Raise")
    spots.get_by_role("button", name="too thin to print layer").click()
    expect(page.get_by_text(re.compile("wide; a line needs"))).to_be_visible()
    spots.get_by_role("button", name=re.compile("^Thicken it")).click()
    saved(page)
    expect(page.get_by_text("Every part gets printed")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(spots.get_by_text("too thin to print")).to_be_visible()


def test_a_file_is_weighed_before_it_is_taken(page):
    begin(page, two_bars(), "bars.png")
    stop(page, "Prove")
    page.get_by_role("radio", name="STLs").click()
    weight = page.get_by_text(re.compile(r"^[\d,]+ triangles, "))
    expect(weight).to_be_visible()
    promised = int(re.sub(r"\D", "", (weight.text_content() or "").split(" ")[0]))
    with page.expect_download() as coming:
        page.get_by_role("button", name="Export STLs").click()
    parts = unzipped(coming.value.path().read_bytes())
    meshes = [read_stl(data) for data in parts.values()]
    assert len(meshes) == 2
    assert all(check_seal(mesh).sealed for mesh in meshes)
    assert sum(len(mesh.faces) for mesh in meshes) == promised


def test_the_solid_is_measured_and_cut_along_a_line(page):
    box, px = bars_from_above(page)
    y = box["y"] + box["height"] / 2 - 10 * px
    left, right = (box["x"] + box["width"] / 2 + way * px for way in (-21, 18))
    page.get_by_role("button", name="Measure between two points").click()
    page.mouse.click(left, y)
    expect(page.get_by_text("Click the other point.")).to_be_visible()
    page.mouse.click(right, y)
    told = page.get_by_text(re.compile(r"^across .*, up 0$"))
    expect(told).to_be_visible()
    across = float(re.findall(r"[\d.]+", told.text_content() or "")[0])
    assert across == pytest.approx(39, abs=2)
    page.get_by_role("button", name="Cut along a line").click()
    page.mouse.click(left, y)
    page.wait_for_timeout(300)
    page.mouse.click(right, y)
    moved = page.get_by_role("slider", name="Moved")
    moved.press("ArrowRight")
    expect(moved).not_to_have_attribute("aria-valuetext", "0 mm")
    turn = page.get_by_role("button", name="Keep the other side")
    turn.click()
    expect(turn).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Cut along a line").click()
    expect(moved).to_have_count(0)


def test_what_a_remark_proposes_is_done_with_one_click(page):
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    page.get_by_role("button", name="Use one rectangular plate").click()
    saved(page)
    expect(page.get_by_text("comes out in 2 separate parts")).to_have_count(0)
