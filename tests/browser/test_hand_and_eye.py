"""What a stranger leans on: views, exact numbers, picks that tell the truth, remarks that mend, filaments, files."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from drelo.formats.dxf_in import read_dxf
from drelo.formats.stl import read_stl
from tests.browser.hand import begin, click, empty, fill, on_screen, part, regions, saved, spot, stop, taken, tool
from tests.browser.test_speed import badge, number


def width_of(page: Page, view: str) -> float:
    box = page.get_by_role("region", name=view).bounding_box()
    assert box
    return box["width"]


def test_the_view_that_a_stop_is_about_is_large_and_the_other_is_an_inset(page: Page) -> None:
    begin(page, badge(100), "square.png")
    for name in ("Gather", "Trace", "Shape"):
        stop(page, name)
        assert width_of(page, "Flat view") >= 700
        assert width_of(page, "Solid view") < 260
    whole = width_of(page, "Flat view")
    # At Raise both stand side by side, with all that the flat view is looked at with; then it has all the room again.
    stop(page, "Raise")
    page.wait_for_timeout(300)
    flat = page.get_by_role("region", name="Flat view")
    right = (flat.bounding_box() or {"x": 0})["x"] + width_of(page, "Flat view")
    for label in ("Zoom in", "Fit", "Enlarge the flat view"):
        box = flat.get_by_role("button", name=label, exact=True).bounding_box()
        assert box is not None
        assert box["x"] + box["width"] <= right
    stop(page, "Shape")
    page.wait_for_timeout(300)
    assert width_of(page, "Flat view") == pytest.approx(whole, abs=2)
    page.get_by_role("button", name="Enlarge the solid view").click()
    page.wait_for_timeout(100)
    assert width_of(page, "Solid view") >= 700
    page.keyboard.press("v")
    page.wait_for_timeout(100)
    assert width_of(page, "Flat view") >= 700
    page.keyboard.press("b")
    page.wait_for_timeout(100)
    assert 250 < width_of(page, "Flat view") < 550
    # As it was left, also after a reload: the stop too.
    page.reload()
    expect(page.get_by_role("navigation", name="Stops").get_by_role("button", name="Shape")).to_have_attribute(
        "aria-current", "step"
    )
    page.wait_for_timeout(300)
    assert 250 < width_of(page, "Flat view") < 550
    # At Prove the bed and the solid stand side by side.
    stop(page, "Prove")
    page.wait_for_timeout(100)
    assert 250 < width_of(page, "Layer view") < 550
    assert 250 < width_of(page, "Solid view") < 550


def typed(page: Page, label: str, text: str) -> None:
    field = page.get_by_role("textbox", name=label, exact=True)
    field.fill(text)
    field.press("Enter")


def test_a_triangle_by_numbers_alone(page: Page) -> None:
    empty(page)
    tool(page, "Draw a line")
    typed(page, "Start at x, y", "10, 60")
    page.get_by_role("textbox", name="Angle", exact=True).fill("0")
    typed(page, "Length", "40")
    saved(page)
    # A slope of 4 rises four for one across; the other way goes down.
    page.get_by_role("textbox", name="Slope", exact=True).fill("4")
    page.get_by_role("textbox", name="Length", exact=True).fill("20")
    expect(page.locator("[data-ghost]")).to_be_attached()
    page.get_by_role("button", name="Set the point the other way").click()
    saved(page)
    typed(page, "Next point at x, y", "10 90")
    saved(page)
    page.get_by_role("button", name="Close", exact=True).click()
    saved(page)
    regions(page, 1)
    part(page, "Place")
    # From 10 to 50 across; down by 4 / sqrt(17) of 20 from 60 and 30 from there on the left.
    assert number(page, "x") == pytest.approx(10)
    assert number(page, "y") == pytest.approx(60)
    assert number(page, "Its width") == pytest.approx(40)
    assert number(page, "Its height") == pytest.approx(30)


def test_a_node_is_moved_by_its_numbers(page: Page) -> None:
    begin(page, badge(100), "square.png")
    stop(page, "Shape")
    page.locator("[data-ground]").wait_for()
    click(page, 0.5, 0.5)
    part(page, "Change")
    tool(page, "Nodes")
    page.mouse.click(*on_screen(page, "[data-region]", 0.0))
    x, y = number(page, "Node, x"), number(page, "Node, y")
    fill(page, "Node, x", f"{x - 5:g}")
    saved(page)
    assert number(page, "Node, x") == pytest.approx(x - 5)
    assert number(page, "Node, y") == pytest.approx(y)


@pytest.mark.parametrize("form", ["circle", "ellipse", "rectangle", "polygon"])
def test_a_shape_round_everything_encloses_it_and_lies_beneath(page: Page, form: str) -> None:
    begin(page, badge(100), "square.png")
    stop(page, "Shape")
    page.get_by_role("radio", name=form, exact=True).click()
    page.get_by_role("button", name="Put it round everything").click()
    regions(page, 2)
    saved(page)
    # What was put is picked; the square lies above it, wholly inside.
    part(page, "Place")
    outer = number(page, "Its width")
    click(page, 0.5, 0.5)
    inner = number(page, "Its width")
    assert inner == pytest.approx(60, abs=0.01)
    assert outer >= inner + 6


def test_what_is_made_is_picked_and_what_is_gone_is_not(page: Page) -> None:
    empty(page)
    bar = page.get_by_role("contentinfo")
    tool(page, "Set words")
    click(page, 0.4, 0.4)
    page.keyboard.type("Kit")
    page.get_by_role("textbox", name="Text").blur()
    saved(page)
    # The piece is called by its words; each letter by itself.
    expect(page.get_by_role("textbox", name="Name of the piece")).to_have_value("Kit")
    stop(page, "Raise")
    contents = page.get_by_role("complementary", name="Contents")
    expect(contents.get_by_role("button", name=re.compile("^K"))).to_be_visible()
    stop(page, "Shape")
    page.keyboard.press("Control+a")
    part(page, "Change")
    page.get_by_role("button", name="Make the border").click()
    saved(page)
    part(page, "Place")
    wide = number(page, "Its width")
    page.keyboard.press("Delete")
    saved(page)
    expect(bar).to_contain_text("nothing picked")
    page.keyboard.press("Control+a")
    assert number(page, "Its width") == pytest.approx(wide - 6, abs=0.05)


def test_a_remark_leads_to_its_place_and_mends_it(page: Page) -> None:
    empty(page)
    for x in (0.25, 0.7):
        tool(page, "Drag it out")
        click(page, x, 0.5)
        saved(page)
    stop(page, "Raise")
    page.get_by_role("radio", name="Cutter").click()
    saved(page)
    remarks = page.get_by_role("region", name="Remarks")
    expect(remarks).to_contain_text("2 biscuits at once")
    remarks.get_by_role("button", name="Add a handle").click()
    saved(page)
    expect(page.get_by_role("switch", name="Handle bar across the back")).to_be_checked()
    expect(remarks.get_by_role("button", name="Add a handle")).to_have_count(0)
    page.get_by_role("button", name="Child’s hand").click()
    saved(page)
    mesh = read_stl(taken(page))
    assert mesh.size[2] == pytest.approx(22, abs=1e-4)
    page.keyboard.press("Escape")
    # In inches the ladder, the numbers and the remarks are in inches.
    page.get_by_role("button", name=re.compile("^Units")).click()
    saved(page)
    expect(page.get_by_role("textbox", name="Flange width", exact=True)).to_have_value("0.276")


def test_a_filament_of_ones_own_is_used_and_kept(page: Page) -> None:
    begin(page, badge(100), "square.png")
    stop(page, "Raise")
    page.get_by_role("button", name="Change the filaments").first.click()
    dialog = page.get_by_role("dialog", name="Filaments")
    own = dialog.get_by_role("region", name="Filaments of this piece")
    own.get_by_role("button", name="Add one").click()
    name = own.get_by_role("textbox", name="Name of New filament")
    name.fill("Brick red")
    name.press("Enter")
    own.get_by_role("button", name="Put Brick red on the shelf").click()
    shelf = dialog.get_by_role("region", name="Filament shelf")
    expect(shelf.get_by_role("textbox", name="Name of Brick red")).to_be_visible()
    dialog.get_by_role("button", name="Done").click()
    page.get_by_label("Filament", exact=True).get_by_role("radio", name="Brick red").click()
    saved(page)
    # A new piece has it as well.
    begin(page, badge(80), "other.png")
    stop(page, "Raise")
    expect(page.get_by_label("Filament", exact=True).get_by_role("radio", name="Brick red")).to_be_visible()


def test_outlines_leave_trace_in_three_clicks_at_a_typed_width(page: Page) -> None:
    begin(page, badge(100), "square.png")
    stop(page, "Trace")
    page.get_by_role("banner").get_by_role("button", name="Export").click()
    page.get_by_role("radio", name="DXF", exact=True).click()
    panel = page.get_by_role("region", name="Export")
    field = panel.get_by_role("textbox", name="Width", exact=True)
    field.fill("35")
    field.press("Enter")
    with page.expect_download() as coming:
        panel.get_by_role("button", name="Export DXF").click()
    assert read_dxf(coming.value.path().read_bytes()).size == pytest.approx((35, 35), abs=0.02)


def test_a_shape_is_dragged_from_corner_to_corner_or_with_alt_from_its_middle(page: Page) -> None:
    empty(page)
    page.get_by_role("radio", name="rectangle", exact=True).click()
    sizes = []
    for alt in (False, True):
        tool(page, "Drag it out")
        if alt:
            page.keyboard.down("Alt")
        page.mouse.move(*spot(page, 0.3, 0.3))
        page.mouse.down()
        page.mouse.move(*spot(page, 0.5, 0.4), steps=4)
        page.mouse.up()
        if alt:
            page.keyboard.up("Alt")
        saved(page)
        part(page, "Place")
        sizes.append(number(page, "Its width"))
        part(page, "Draw")
    assert sizes[1] == pytest.approx(2 * sizes[0], rel=0.01)
