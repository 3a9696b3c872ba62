"""The whole slice in the browser: drop, adjust, build, take away, read back; reload; undo."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from drelo.core.solid.seal import check_seal
from drelo.formats.stl import read_stl
from drelo.formats.threemf import read_3mf
from tests.browser.hand import begin, drop, fill, paste, saved, solid_seen, stop
from tests.core.test_picture import BAD


def take(page, kind: str) -> bytes:
    stop(page, "Prove")
    panel = page.get_by_role("complementary", name="Tuning: Prove")
    panel.get_by_role("radio", name=kind, exact=True).click()
    with page.expect_download() as waiting:
        panel.get_by_role("button", name=f"Export {kind}", exact=True).click()
    expect(panel.get_by_text("Sealed: read back and checked")).to_be_visible()
    return waiting.value.path().read_bytes()


def test_from_a_dropped_picture_to_sealed_files(page, ring_png):
    begin(page, ring_png)
    expect(page.locator("[data-region]")).to_have_count(2)
    solid_seen(page)
    stop(page, "Shape")
    page.get_by_label("Part of shaping").get_by_role("radio", name="Place", exact=True).click()
    fill(page, "Width", "70")
    saved(page)
    expect(page.get_by_role("contentinfo")).to_contain_text("76")
    stop(page, "Raise")
    fill(page, "Height", "2.5")
    fill(page, "Thickness", "1/8in")
    page.get_by_role("radio", name="Circle").click()
    saved(page)
    data = take(page, "STL")
    mesh = read_stl(data)
    seal = check_seal(mesh)
    assert seal.sealed
    assert seal.parts == 1
    assert mesh.size[2] == pytest.approx(2.5 + 25.4 / 8, abs=1e-4)
    bodies = read_3mf(take(page, "3MF"))
    assert [b.name for b in bodies] == ["base", "Region 1, Region 2"]
    assert all(check_seal(b.mesh).sealed for b in bodies)
    ring, square = np.pi * (24**2 - 12**2), 16**2
    assert bodies[1].mesh.volume == pytest.approx((ring + square) * 2.5, rel=1e-2)


def test_the_outline_follows_the_level_while_it_is_dragged(page, ring_png):
    begin(page, ring_png)
    stop(page, "Trace")
    before = page.locator("[data-region]").first.get_attribute("d")
    thumb = page.get_by_role("slider", name="Level, slider")
    box = thumb.bounding_box()
    page.mouse.move(box["x"] + 7, box["y"] + 7)
    page.mouse.down()
    page.mouse.move(box["x"] + 60, box["y"] + 7, steps=4)
    expect(page.locator("[data-region]").first).not_to_have_attribute("d", before)
    page.mouse.up()
    saved(page)
    expect(page.get_by_text("further right, more counts as ink")).to_be_visible()
    page.get_by_role("button", name="auto").first.click()
    expect(page.locator("[data-region]").first).to_have_attribute("d", before)


def test_everything_is_there_after_a_reload_and_undo_goes_back(page, ring_png):
    begin(page, ring_png)
    stop(page, "Raise")
    contents = page.get_by_role("complementary", name="Contents")
    contents.get_by_role("button", name=re.compile("Region 2")).click()
    fill(page, "Name", "Bed")
    page.get_by_role("radio", name="Through", exact=True).click()
    saved(page)
    expect(contents.get_by_role("button", name=re.compile("Bed"))).to_contain_text("through")
    page.reload()
    expect(contents.get_by_role("button", name=re.compile("Bed"))).to_contain_text("through")
    page.get_by_role("button", name="Undo").click()
    expect(contents.get_by_role("button", name=re.compile("Bed"))).to_contain_text("1.2 mm")
    page.keyboard.press("Control+z")
    expect(contents.get_by_role("button", name=re.compile("Region 2"))).to_be_visible()
    page.keyboard.press("Control+Shift+z")
    page.keyboard.press("Control+Shift+z")
    expect(contents.get_by_role("button", name=re.compile("Bed"))).to_contain_text("through")
    expect(page.get_by_role("button", name="Redo")).to_be_disabled()


def test_what_is_picked_in_one_place_lights_up_everywhere(page, ring_png):
    begin(page, ring_png)
    stop(page, "Raise")
    region = page.locator("[data-region]").nth(1)
    region.click(position={"x": 8, "y": 8})
    row = page.get_by_role("complementary", name="Contents").get_by_role("button", name=re.compile("Region 2"))
    expect(row).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_role("contentinfo")).to_contain_text("picked:")
    page.keyboard.press("Escape")
    expect(row).to_have_attribute("aria-pressed", "false")
    # In the round: look from the top and press on the square, right of the middle.
    solid_seen(page)
    page.get_by_role("button", name="Top view").click()
    canvas = page.locator("canvas").bounding_box()
    scale = min(canvas["width"], canvas["height"]) / 82
    page.mouse.click(canvas["x"] + canvas["width"] / 2 + 21.5 * scale, canvas["y"] + canvas["height"] / 2)
    expect(row).to_have_attribute("aria-pressed", "true")


def test_wheel_zooms_to_the_pointer_and_fit_comes_back(page, ring_png):
    begin(page, ring_png)
    sheet = page.locator("section[aria-label='Flat view'] svg[role=img]")
    region = page.locator("[data-region]").nth(1)
    start = region.bounding_box()
    x, y = start["x"] + start["width"], start["y"] + start["height"]
    page.mouse.move(x, y)
    page.mouse.wheel(0, -400)
    page.wait_for_function(
        "([w]) => document.querySelectorAll('[data-region]')[1].getBoundingClientRect().width > w * 1.3",
        arg=[start["width"]],
    )
    larger = region.bounding_box()
    assert larger["x"] + larger["width"] == pytest.approx(x, abs=2)
    assert larger["y"] + larger["height"] == pytest.approx(y, abs=2)
    page.get_by_role("button", name="Fit").click()
    page.wait_for_function(
        "([x]) => Math.abs(document.querySelectorAll('[data-region]')[1].getBoundingClientRect().x - x) < 1",
        arg=[start["x"]],
    )
    assert sheet.is_visible()


def test_a_paste_works_like_a_drop(page, ring_png):
    page.goto("/")
    expect(page.get_by_role("heading", name="Pieces")).to_be_visible()
    paste(page, "grab.png", ring_png)
    page.wait_for_url(re.compile("/bench/"))
    expect(page.locator("[data-region]")).to_have_count(2)
    paste(page, "second.png", ring_png)
    expect(page.get_by_role("complementary", name="Contents")).to_contain_text("second.png")


@pytest.mark.parametrize("name", ["nothing", "no picture", "cut off", "svg", "one pixel"])
def test_bad_pictures_are_refused_in_words(page, name):
    page.goto("/")
    expect(page.get_by_role("heading", name="Pieces")).to_be_visible()
    drop(page, "art.png", BAD[name])
    notice = page.get_by_role("status").filter(has_text=re.compile("picture|file|SVG"))
    expect(notice.first).to_be_visible()
    assert page.url.endswith("/")


def test_inches_are_typed_and_shown(page, ring_png):
    begin(page, ring_png)
    page.get_by_role("button", name=re.compile("Units")).click()
    stop(page, "Shape")
    page.get_by_label("Part of shaping").get_by_role("radio", name="Place", exact=True).click()
    fill(page, "Width", "5/2in")
    expect(page.get_by_role("textbox", name="Width", exact=True)).to_have_value("2.5")
    fill(page, "Width", "50.8mm")
    expect(page.get_by_role("textbox", name="Width", exact=True)).to_have_value("2")
    field = page.get_by_role("textbox", name="Width", exact=True)
    field.fill("wide")
    field.press("Enter")
    expect(page.get_by_text("Type a number")).to_be_visible()
    field.press("Escape")
    expect(field).to_have_value("2")


def test_a_form_that_cannot_be_built_is_a_problem_at_its_number_and_stops_nothing(page, ring_png):
    begin(page, ring_png)
    stop(page, "Raise")
    page.get_by_role("radio", name="Sunk").click()
    fill(page, "Depth", "1.8")
    saved(page)
    fill(page, "Thickness", "1")
    saved(page)
    expect(page.locator("[data-form-problem='height']")).to_contain_text("would go through it")
    # The last good solid stands there, dimmed, and the flat view goes on.
    expect(page.get_by_role("region", name="Solid view").get_by_role("alert")).to_contain_text("would go through it")
    expect(page.locator("[data-solid-dimmed]")).to_be_visible()
    stop(page, "Trace")
    fill(page, "Calmness", "80")
    saved(page)
    expect(page.locator("[data-region]")).to_have_count(2)
    stop(page, "Raise")
    fill(page, "Thickness", "3")
    saved(page)
    expect(page.locator("[data-form-problem]")).to_have_count(0)
    expect(page.locator("[data-solid-dimmed]")).to_have_count(0)


def test_edits_wait_for_a_lost_connection(page, context, ring_png):
    begin(page, ring_png)
    stop(page, "Raise")
    context.set_offline(True)
    fill(page, "Height", "3.5")
    expect(page.get_by_text("waiting for Drelo")).to_be_visible()
    context.set_offline(False)
    saved(page)
    page.reload()
    stop(page, "Raise")
    expect(page.get_by_role("textbox", name="Height", exact=True)).to_have_value("3.5")


def test_pieces_are_renamed_duplicated_deleted_and_brought_back(page, ring_png):
    begin(page, ring_png, "allotment-gate.png")
    page.get_by_role("link", name="All pieces").click()
    page.get_by_role("button", name="Rename Allotment gate").first.click()
    page.get_by_role("textbox", name="Name of the piece").fill("Gate sign")
    page.keyboard.press("Enter")
    expect(page.get_by_role("link", name="Open Gate sign", exact=True)).to_be_visible()
    page.get_by_role("button", name="Duplicate Gate sign").click()
    expect(page.get_by_role("link", name="Open Gate sign, copy")).to_be_visible()
    page.get_by_role("button", name="Delete Gate sign", exact=True).click()
    expect(page.get_by_role("link", name="Open Gate sign", exact=True)).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="Open Gate sign", exact=True)).to_be_visible()
    page.get_by_role("searchbox").fill("copy")
    expect(page.get_by_role("listitem").filter(has_text="Gate")).to_have_count(1)


def test_an_empty_piece_says_how_to_begin(page):
    page.goto("/")
    page.get_by_role("button", name="New empty piece").click()
    expect(page.get_by_role("heading", name="Start with a picture")).to_be_visible()
    expect(page.get_by_text("The solid appears here")).to_be_visible()
    stop(page, "Raise")
    expect(page.get_by_text("Nothing to do here yet")).to_be_visible()


def test_keys_reach_every_control_and_the_help(page, ring_png):
    begin(page, ring_png)
    page.keyboard.press("Alt+4")
    expect(page.get_by_role("complementary", name="Tuning: Raise")).to_be_visible()
    height = page.get_by_role("textbox", name="Height", exact=True)
    height.focus()
    page.keyboard.press("ArrowUp")
    expect(height).to_have_value("1.25")
    page.keyboard.press("Shift+ArrowUp")
    expect(height).to_have_value("1.75")
    height.blur()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
    page.keyboard.press("Escape")
    unnamed = page.evaluate(
        """() => [...document.querySelectorAll("button, a, input, [role=slider]")]
          .filter((e) => !(e.getAttribute("aria-label") || e.textContent.trim() || e.labels?.length || e.hidden))
          .map((e) => e.outerHTML.slice(0, 120))"""
    )
    assert unnamed == []
