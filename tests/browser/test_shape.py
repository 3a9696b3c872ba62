"""The Shape stop: what a maker would else leave for a drawing program."""

import io
import re
import shutil

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from drelo.core.outline.ease import arc
from drelo.core.outline.primitives import rectangle
from drelo.formats.dxf import Layer, write_dxf
from drelo.formats.dxf_in import read_dxf
from tests.browser.hand import (
    at_rest,
    begin,
    click,
    drag,
    empty,
    fill,
    ground,
    node_count,
    on_screen,
    part,
    regions,
    saved,
    spot,
    stop,
    tool,
)
from tests.formats.test_words_in import sign


def blot() -> bytes:
    """A disc with a dent drawn by an unsteady hand."""
    rng = np.random.default_rng(7)
    angle = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    radius = 150 + rng.normal(0, 1.6, 180) - 25 * np.exp(-((angle - 1.2) ** 2) / 0.02)
    points = np.column_stack([200 + radius * np.cos(angle), 200 + radius * np.sin(angle)])
    image = np.full((400, 400), 255, np.uint8)
    cv2.fillPoly(image, [np.round(points * 16).astype(np.int32)], 0, cv2.LINE_AA, 4)
    return cv2.imencode(".png", image)[1].tobytes()


def test_a_trace_is_mended_with_nodes_and_eased_and_undone_all_the_way(page):
    begin(page, blot(), "blot.png")
    traced = page.locator("[data-region]").get_attribute("d")
    stop(page, "Shape")
    part(page, "Change")
    page.locator("[data-ground]").wait_for()
    page.mouse.click(*spot(page, 0.5, 0.5))
    tool(page, "Nodes")
    expect(page.locator("[data-node-count]")).to_be_visible()
    before = node_count(page)
    assert before >= 4
    at_rest(page)
    first = on_screen(page, "[data-region]", 0)
    drag(page, first, (first[0] + 30, first[1] + 14))
    saved(page)
    expect(page.locator("[data-region]")).not_to_have_attribute("d", traced)
    moved = page.locator("[data-region]").get_attribute("d")
    page.mouse.dblclick(*on_screen(page, "[data-region]", 0.5))
    expect(page.locator(f"[data-node-count='{before + 1}']")).to_be_visible()
    tool(page, "Nodes")
    tool(page, "Ease")
    fill(page, "Brush radius", "6")
    fill(page, "Stays within", "1.5")
    at_rest(page)
    rubbed = [on_screen(page, "[data-region]", share) for share in np.linspace(0.3, 0.45, 8)]
    drag(page, *rubbed)
    saved(page)
    expect(page.locator("[data-region]")).not_to_have_attribute("d", moved)
    for _ in range(3):
        page.get_by_role("button", name="Undo").click()
        saved(page)
    expect(page.locator("[data-region]")).to_have_attribute("d", traced)
    for _ in range(3):
        page.get_by_role("button", name="Redo").click()
        saved(page)
    expect(page.locator("[data-region]")).not_to_have_attribute("d", traced)


def test_a_mended_outline_is_mended_again_when_traced_otherwise(page):
    begin(page, blot(), "blot.png")
    stop(page, "Shape")
    part(page, "Change")
    page.mouse.click(*spot(page, 0.5, 0.5))
    tool(page, "Nodes")
    at_rest(page)
    first = on_screen(page, "[data-region]", 0)
    traced = page.locator("[data-region]").get_attribute("d")
    round_ = proportions(page)
    drag(page, first, (first[0] + 90, first[1] + 20))
    expect(page.locator("[data-region]")).not_to_have_attribute("d", traced)
    saved(page)
    pulled = proportions(page)
    assert abs(pulled - round_) > 0.01
    mended = page.locator("[data-region]").get_attribute("d")
    stop(page, "Trace")
    fill(page, "Level", "55")
    expect(page.locator("[data-region]")).not_to_have_attribute("d", mended)
    saved(page)
    assert proportions(page) == pytest.approx(pulled, rel=0.01)
    expect(page.get_by_text("no longer fit")).to_have_count(0)


def proportions(page: Page) -> float:
    """How long the outline is against its width; a pulled node makes it longer."""
    return page.locator("[data-region]").evaluate("path => path.getTotalLength() / path.getBBox().width")


def test_words_in_joined_script_become_one_part_by_growth(page):
    empty(page)
    tool(page, "Set words")
    click(page, 0.5, 0.5)
    text = page.get_by_role("textbox", name="Text", exact=True)
    text.fill("Plot Fourteen")
    page.get_by_role("textbox", name="Height of capitals").focus()
    saved(page)
    expect(page.locator("[data-region]").nth(4)).to_be_visible()
    letters = page.locator("[data-region]").count()
    part(page, "Change")
    joining = page.locator("[data-joining]")
    expect(joining).to_contain_text(f"in {letters} separate parts")
    growth = float(joining.get_attribute("data-joining") or 0)
    assert 0.1 < growth < 3
    page.get_by_role("button", name="Grow just enough").click()
    regions(page, letters + 1)
    saved(page)
    expect(page.get_by_text("separate parts")).to_have_count(0)


def test_a_pour_shows_its_leak_and_closes_it(page):
    empty(page)
    tool(page, "Draw a line")
    for x, y in ((0.3, 0.3), (0.7, 0.3), (0.7, 0.7), (0.3, 0.7), (0.3, 0.345)):
        click(page, x, y)
        page.wait_for_timeout(150)
    saved(page)
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    expect(page.get_by_text("1 line is still open")).to_be_visible()
    tool(page, "Pour")
    click(page, 0.5, 0.5)
    leak = page.locator("[data-leak]")
    expect(leak).to_be_visible()
    assert 2 < float(leak.get_attribute("data-leak") or 0) < 15
    page.get_by_role("button", name="Close the gap").click()
    regions(page, 1)
    # Outside there is nothing to fill.
    click(page, 0.05, 0.5)
    expect(page.get_by_role("alert")).to_contain_text("Nothing encloses")


def test_half_a_drawing_is_mirrored_as_it_is_drawn(page):
    empty(page)
    tool(page, "Mirror line")
    click(page, 0.5, 0.2)
    click(page, 0.5, 0.8)
    expect(page.locator("[data-symmetry='mirror']")).to_be_attached()
    tool(page, "Draw a line")
    for x, y in ((0.5, 0.3), (0.3, 0.4), (0.35, 0.6), (0.5, 0.7)):
        click(page, x, y)
        page.wait_for_timeout(150)
    saved(page)
    # Both halves meet on the line and enclose one area.
    regions(page, 1)
    box, view = page.locator("[data-region]").bounding_box(), ground(page).bounding_box()
    middle = box["x"] + box["width"] / 2
    assert abs(middle - (view["x"] + view["width"] / 2)) < 4
    assert box["width"] == pytest.approx(0.4 * view["width"], rel=0.05)


def bracket() -> bytes:
    """A plate of 40 × 30 mm with two holes, one of them beside it and loose."""
    holes = [arc(np.array([10.0, 0.0]), 4, 0, np.pi), arc(np.array([10.0, 0.0]), 4, np.pi, np.pi)]
    loose = [rectangle(8, 8, 1).transformed(1, 32, 0)]
    return write_dxf([Layer("plate", "#000000", [rectangle(40, 30, 3), *holes, *loose])])


def test_a_dxf_comes_in_gets_a_ring_and_a_tie_and_goes_out(page):
    empty(page)
    page.get_by_label("Drawing file").set_input_files(
        {"name": "bracket.dxf", "mimeType": "image/vnd.dxf", "buffer": bracket()}
    )
    expect(page.locator("[data-true-size]")).to_contain_text("56 × 30 mm")
    page.get_by_role("button", name="Place it", exact=True).click()
    regions(page, 2)
    saved(page)
    part(page, "Change")
    page.get_by_role("button", name="Propose ties").click()
    # What is tied is one outline, and picked; its tie is changed by its numbers.
    regions(page, 1)
    fill(page, "Its width", "4.5")
    saved(page)
    field = page.get_by_label("Its width", exact=True)
    expect(field).to_have_value("4.5")
    field.blur()
    page.keyboard.press("Escape")
    saved(page)
    part(page, "Draw")
    page.get_by_role("radio", name="ring", exact=True).click()
    page.get_by_role("button", name=re.compile("^Put it round (everything|the pick)$")).click()
    regions(page, 2)
    fill(page, "Outer diameter", "80")
    fill(page, "Inner diameter", "70")
    saved(page)
    page.get_by_role("banner").get_by_role("button", name="Export").click()
    page.get_by_role("radio", name="DXF", exact=True).click()
    with page.expect_download() as coming:
        page.get_by_role("button", name="Export DXF").click()
    data = coming.value.path().read_bytes()
    back = read_dxf(data)
    assert back.size == pytest.approx((80, 80), abs=0.02)
    assert len(back.lines) == 4
    assert all(line.contour.closed for line in back.lines)


def test_picking_by_click_box_and_size(page):
    empty(page)
    for x in (0.25, 0.5, 0.75):
        tool(page, "Drag it out")
        drag(page, spot(page, x, 0.5), spot(page, x + 0.05, 0.5))
        saved(page)
    regions(page, 3)
    page.keyboard.press("Escape")
    bar = page.get_by_role("contentinfo")
    expect(bar).to_contain_text("nothing picked")
    # A box that only touches takes a thing, one with Alt held only what lies wholly inside.
    drag(page, spot(page, 0.1, 0.2), spot(page, 0.52, 0.8))
    expect(bar).to_contain_text("2 picked")
    page.keyboard.down("Alt")
    drag(page, spot(page, 0.1, 0.2), spot(page, 0.52, 0.8))
    page.keyboard.up("Alt")
    expect(bar).to_contain_text("picked:")
    expect(bar).not_to_contain_text("2 picked")
    before = page.locator("[data-region]").nth(0).get_attribute("d")
    page.keyboard.press("ArrowRight")
    saved(page)
    expect(page.locator("[data-region]").nth(0)).not_to_have_attribute("d", before)
    page.keyboard.press("Control+d")
    regions(page, 4)
    page.keyboard.press("Control+a")
    expect(bar).to_contain_text("4 picked")
    page.keyboard.press("Delete")
    regions(page, 0)


def test_a_motif_is_kept_and_placed_in_another_piece(page):
    empty(page)
    page.get_by_role("radio", name="star", exact=True).click()
    page.get_by_role("button", name="Put it on the sheet").click()
    regions(page, 1)
    page.get_by_role("textbox", name="Name of the motif").fill("Fair star")
    page.get_by_role("button", name="Keep the pick").click()
    expect(page.get_by_role("button", name="Place Fair star")).to_be_visible()
    empty(page)
    page.get_by_role("button", name="Place Fair star").click()
    regions(page, 1)
    page.get_by_role("button", name="Remove Fair star").click()
    expect(page.get_by_role("button", name="Place Fair star")).to_have_count(0)


def test_a_file_that_is_no_drawing_is_refused_in_its_place(page):
    empty(page)
    page.get_by_label("Drawing file").set_input_files(
        {"name": "drawing.svg", "mimeType": "image/svg+xml", "buffer": io.BytesIO(b"not a drawing").read()}
    )
    expect(page.get_by_role("alert")).to_contain_text("not an SVG")


@pytest.mark.skipif(shutil.which("tesseract") is None, reason="tesseract is not installed")
def test_all_lines_that_were_read_are_taken_at_once(page):
    upper, lower = (cv2.imdecode(np.frombuffer(sign(text=t), np.uint8), 0) for t in ("Heron Fair", "Pier 12.75"))
    begin(page, cv2.imencode(".png", np.concatenate([upper, lower]))[1].tobytes(), "sign.png")
    traced = page.locator("[data-region]").count()
    stop(page, "Shape")
    page.get_by_role("button", name="Read the words in the picture").click()
    words = page.get_by_role("list", name="Words that were read")
    expect(words.get_by_role("listitem")).to_have_count(2)
    for box in words.get_by_role("combobox").all():
        expect(box).to_have_value("font:slab")
    words.get_by_role("textbox", name="Text for Heron Fair").fill("Heron Feast")
    page.get_by_role("button", name="Use both lines").click()
    expect(words).to_have_count(0)
    saved(page)
    contents = page.get_by_role("complementary", name="Contents")
    for text in ("Heron Feast", "Pier 12.75"):
        expect(contents.get_by_role("button", name=re.compile(re.escape(text))).first).to_be_visible()
    # One step takes both back.
    page.get_by_role("navigation", name="Stops").get_by_role("button", name="Shape").focus()
    page.keyboard.press("Control+z")
    expect(page.locator("[data-region]")).to_have_count(traced)


@pytest.mark.skipif(shutil.which("tesseract") is None, reason="tesseract is not installed")
def test_words_in_a_picture_are_read_corrected_and_taken_as_lettering(page):
    begin(page, sign(text="Heron Fair"), "sign.png")
    traced = page.locator("[data-region]").count()
    stop(page, "Shape")
    page.get_by_role("button", name="Read the words in the picture").click()
    words = page.get_by_role("list", name="Words that were read")
    expect(words.get_by_role("listitem")).to_have_count(1)
    expect(words.get_by_role("combobox")).to_have_value("font:slab")
    field = words.get_by_role("textbox")
    expect(field).to_have_value("Heron Fair")
    field.fill("Heron Feast")
    words.get_by_role("button", name="Use Heron Fair").click()
    expect(words).to_have_count(0)
    saved(page)
    contents = page.get_by_role("complementary", name="Contents")
    expect(contents.get_by_role("button", name=re.compile("Heron Feast")).first).to_be_visible()
    page.get_by_role("textbox", name="Name of the piece").focus()
    page.get_by_role("navigation", name="Stops").get_by_role("button", name="Shape").focus()
    page.keyboard.press("Control+z")
    expect(page.locator("[data-region]")).to_have_count(traced)
