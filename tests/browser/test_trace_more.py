"""The Trace stop's other tools: areas, attempts and wipe, rough spots, the pen, the cabinet."""

import itertools
import math
import re

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.hand import at_rest, begin, fill, paste, saved, stop


def packed(rgb: np.ndarray) -> bytes:
    return cv2.imencode(".png", rgb[..., ::-1])[1].tobytes()


def pair() -> bytes:
    """A disc with a speck beside it, and two bars of different colours."""
    rgb = np.full((240, 360, 3), 255, np.uint8)
    cv2.circle(rgb, (90, 120), 60, (30, 30, 30), -1, cv2.LINE_AA)
    rgb[20:24, 20:24] = 30
    rgb[60:180, 220:270] = (180, 40, 40)
    rgb[60:180, 270:320] = (40, 60, 180)
    return packed(rgb)


def place(page: Page, x: float, y: float) -> tuple[float, float]:
    """Where a pixel of the picture (360 × 240) is on the screen."""
    box = page.locator("image[data-underlay]").bounding_box()
    assert box
    return box["x"] + x / 360 * box["width"], box["y"] + y / 240 * box["height"]


def drag(page: Page, *points: tuple[float, float]) -> None:
    page.mouse.move(*place(page, *points[0]))
    page.mouse.down()
    for point in points[1:]:
        page.mouse.move(*place(page, *point), steps=4)
    page.mouse.up()


def as_ink(page: Page) -> None:
    """Two bars in colours are taken as colours at first."""
    stop(page, "Trace")
    expect(page.get_by_role("radio", name="Colours", exact=True)).to_have_attribute("aria-checked", "true")
    page.get_by_role("radio", name="Ink", exact=True).click()
    saved(page)
    regions(page, 3)


def part(page: Page, name: str) -> None:
    page.get_by_role("radiogroup", name="Part of tracing").or_(
        page.get_by_role("group", name="Part of tracing")
    ).get_by_role("radio", name=re.compile(f"^{name}")).click()


def regions(page: Page, count: int) -> None:
    expect(page.locator("[data-region]")).to_have_count(count)


def test_a_pasted_grab_is_levelled_cleared_of_specks_and_raised(page):
    page.goto("/")
    expect(page.get_by_role("heading", name="Pieces")).to_be_visible()
    paste(page, "grab.png", pair())
    page.wait_for_url(re.compile("/bench/"))
    regions(page, 4)
    as_ink(page)
    at_rest(page)
    fill(page, "Level", "20")
    saved(page)
    expect(page.get_by_text("further right, more counts as ink")).to_be_visible()
    fill(page, "Specks", "30")
    regions(page, 2)
    expect(page.get_by_text("1 speck dropped, struck out in the view")).to_be_visible()
    stop(page, "Raise")
    expect(page.get_by_role("banner").get_by_role("button", name="Export")).to_be_enabled()


def test_two_areas_are_traced_each_in_its_own_way(page):
    begin(page, pair())
    as_ink(page)
    page.get_by_role("button", name="Box", exact=True).click()
    drag(page, (20, 40), (160, 200))
    regions(page, 1)
    page.get_by_role("button", name="Freehand", exact=True).click()
    drag(page, (200, 40), (340, 40), (340, 200), (200, 200), (200, 60))
    regions(page, 2)
    page.get_by_role("radio", name="Colours", exact=True).click()
    regions(page, 3)
    groups = page.get_by_role("complementary", name="Contents")
    expect(groups.get_by_role("group", name="Area 1").get_by_role("listitem")).to_have_count(1)
    expect(groups.get_by_role("group", name="Area 2").get_by_role("listitem")).to_have_count(2)
    page.get_by_role("list", name="Areas").get_by_role("button", name="Area 1 ink").click()
    expect(page.get_by_role("textbox", name="Level", exact=True)).to_be_visible()
    for name in ("Area 1", "Area 2"):
        page.get_by_role("button", name=f"Remove {name}").click()
        saved(page)
    regions(page, 3)


def test_attempts_are_kept_compared_and_chosen(page):
    begin(page, pair())
    as_ink(page)
    part(page, "Look over")
    page.get_by_role("button", name="Keep the trace as an attempt").click()
    first = "Ink, level auto, calm 50"
    expect(page.get_by_role("img", name=f"{first}, small picture")).to_be_visible()
    expect(page.get_by_text("current")).to_be_visible()
    part(page, "Settings")
    fill(page, "Specks", "30")
    regions(page, 2)
    part(page, "Look over")
    page.get_by_role("button", name=f"Compare {first} by wipe").click()
    # What was compared shows the speck on the left of the wipe, what stands does not have it.
    expect(page.locator("[data-compared] [data-region]")).to_have_count(3)
    expect(page.get_by_text(re.compile(rf"^{first}: 3 outlines, \d+ nodes$"))).to_be_visible()
    expect(page.get_by_text(re.compile(r"^now: 2 outlines, \d+ nodes$"))).to_be_visible()
    wipe = page.get_by_role("slider", name="Wipe")
    wipe.press("ArrowLeft")
    expect(wipe).to_have_attribute("aria-valuenow", "48")
    page.get_by_role("button", name=f"Compare {first} by wipe").click()
    page.get_by_role("button", name="Keep the trace as an attempt").click()
    expect(page.get_by_role("img", name="Ink, level auto, specks 30, calm 50, small picture")).to_be_visible()
    page.get_by_role("button", name="Compare side by side").click()
    shown = page.get_by_role("list", name="Traces side by side").get_by_role("listitem")
    expect(shown).to_have_count(2)
    expect(shown.nth(0).get_by_role("definition").nth(0)).to_have_text("3")
    expect(shown.nth(1).get_by_role("definition").nth(0)).to_have_text("2")
    expect(shown.nth(1)).to_contain_text("current")
    shown.nth(0).get_by_role("button", name=f"Choose {first}").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    regions(page, 3)
    page.reload()
    regions(page, 3)
    part(page, "Look over")
    page.get_by_role("button", name=f"Remove {first}").click()
    expect(page.get_by_role("img", name=f"{first}, small picture")).to_have_count(0)


@pytest.mark.parametrize("mode", ["Ink", "Colours", "Strokes"])
def test_what_is_left_out_is_struck_out_in_every_mode(page, mode):
    begin(page, pair())
    page.get_by_role("radio", name=mode, exact=True).click()
    # The settings of the mode have taken the place of those before.
    saved(page)
    fill(page, "Specks", "30")
    expect(page.get_by_text("1 speck dropped, struck out in the view")).to_be_visible()
    expect(page.locator("[data-lost]")).to_have_count(1)


def test_figures_and_rough_spots_lead_to_their_places(page):
    rgb = np.full((200, 300, 3), 255, np.uint8)
    rgb[40:160, 40:130] = rgb[40:160, 170:260] = 0
    rgb[99:101, 130:170] = 0
    begin(page, packed(rgb))
    part(page, "Look over")
    expect(page.get_by_role("button", name=re.compile(r"^0\.5\d mm$"))).to_be_visible()
    page.get_by_role("button", name="The next rough spot").click()
    expect(page.locator("[data-spot='neck']")).to_be_visible()
    expect(page.locator("[data-pixel-grid]")).to_be_visible()
    page.keyboard.press(",")
    expect(page.get_by_role("status").filter(has_text="of")).to_contain_text("hair-thin neck")
    page.get_by_role("button", name="Fit", exact=True).click()
    page.get_by_role("button", name="Look at single pixels").click()
    expect(page.locator("[data-pixel-grid]")).to_be_visible()


def test_the_pen_clings_closes_goes_on_and_stays(page):
    begin(page, pair())
    part(page, "Pen")
    page.get_by_role("switch", name="Only what the pen draws").click()
    regions(page, 0)
    expect(page.get_by_text("as soon as there is an outline")).to_be_visible()
    page.get_by_role("button", name="Draw over the picture").click()

    def click(x: float, y: float, clicks: int) -> None:
        page.mouse.move(*place(page, x, y))
        page.mouse.down()
        page.mouse.up()
        if clicks:
            expect(page.locator("[data-pen]")).to_be_visible()
        saved(page)

    # The pointer is there already, and rests, when the server says where the first click lies.
    held = []
    page.route(re.compile("/cling$"), lambda route: held.append(route))
    with page.expect_request(re.compile("/cling$")):
        click(90, 62, 0)
    page.mouse.move(*place(page, 148, 118))
    assert held
    for route in held:
        route.continue_()
    page.unroute_all()
    expect(page.locator("[data-pen-tail]")).to_be_visible()
    click(148, 118, 1)
    page.keyboard.press("Escape")
    # An unfinished line stays, also after a reload, and is gone on with from its end.
    page.reload()
    page.locator("[data-open-end]").click()
    expect(page.get_by_text("Enter or the start closes")).to_be_visible()
    click(90, 178, 2)
    click(32, 120, 3)
    page.keyboard.press("Enter")
    regions(page, 1)
    drawn = page.get_by_role("complementary", name="Contents").get_by_role("group", name="Drawn")
    expect(drawn.get_by_role("listitem")).to_have_count(1)
    # The clicks lay up to two pixels off; the outline is the disc, as wide as it is high, with 3 mm of base about it.
    # It is as large as the traced disc was: 120.5 px at 60 mm on 290 px.
    side = r"30(\.[0-3]\d?)?"
    expect(page.get_by_role("contentinfo")).to_contain_text(re.compile(f"{side} × {side}"))


def test_with_shift_the_pen_runs_level_upright_or_slanting_and_keeps_its_kind(page):
    begin(page, pair())
    part(page, "Pen")
    page.get_by_role("button", name="Draw over the picture").click()
    page.keyboard.down("Shift")
    # Each a little off: level, upright, at 45 degrees.
    for x, y in ((40, 30), (140, 33), (138, 90), (100, 52)):
        page.mouse.move(*place(page, x, y))
        page.mouse.down()
        page.mouse.up()
        saved(page)
    page.keyboard.up("Shift")
    page.keyboard.press("Escape")
    line = page.locator("[data-pen] path").first
    points = page.evaluate(
        """(path) => path.getAttribute("d").match(/-?[\\d.]+/g).map(Number)""", line.element_handle()
    )
    corners = list(zip(points[::2], points[1::2], strict=True))
    ways = {round(math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))) % 180 for a, b in itertools.pairwise(corners)}
    assert ways == {0, 45, 90}


def test_heights_stay_when_the_picture_is_traced_again(page):
    begin(page, pair())
    as_ink(page)
    stop(page, "Raise")
    page.get_by_role("complementary", name="Contents").get_by_role("button", name=re.compile("^Region 2")).click()
    fill(page, "Height", "4.5")
    saved(page)
    stop(page, "Trace")
    fill(page, "Level", "30")
    saved(page)
    fill(page, "Specks", "30")
    regions(page, 2)
    contents = page.get_by_role("complementary", name="Contents")
    expect(contents.get_by_text("4.5 mm")).to_have_count(1)
    page.keyboard.press("Escape")
    contents.get_by_role("button", name=re.compile("4.5 mm")).click()
    page.keyboard.press("Delete")
    contents.get_by_text("Left out (1)").click()
    expect(contents.get_by_text("left out", exact=True)).to_be_visible()
    contents.get_by_role("button", name=re.compile("^Bring .* back$")).click()
    expect(contents.get_by_text("4.5 mm")).to_have_count(1)


def test_a_colour_is_picked_from_the_picture(page):
    begin(page, pair())
    page.get_by_role("radio", name="Colours", exact=True).click()
    swatches = page.get_by_role("list", name="Colours of the picture").get_by_role("listitem")
    expect(swatches).to_have_count(4)
    swatches.nth(1).get_by_role("button").click()
    page.get_by_role("button", name="Drop", exact=True).click()
    expect(swatches).to_have_count(3)
    page.get_by_role("button", name="Add one from the picture").click()
    at = place(page, 90, 120)
    page.mouse.click(*at)
    expect(swatches).to_have_count(4)


def test_the_cabinet_is_searched_and_taken_as_outlines_or_to_trace(page):
    page.goto("/")
    page.get_by_role("button", name="New empty piece").click()
    page.wait_for_url(re.compile("/bench/"))
    page.get_by_role("button", name="Search the cabinet").click()
    search = page.get_by_role("searchbox", name="Search the cabinet")
    search.fill("no such thing")
    expect(page.get_by_text("Nothing is found under")).to_be_visible()
    search.fill("dragon head")
    page.get_by_label("Use it as").get_by_role("radio", name="as exact outlines").click()
    page.get_by_role("button", name="Use Dragon head", exact=True).click()
    # Exact outlines are in Shape at once, picked; the piece is called by them.
    expect(page.get_by_role("navigation", name="Stops").get_by_role("button", name="Shape")).to_have_attribute(
        "aria-current", "step"
    )
    expect(page.get_by_role("textbox", name="Name of the piece")).to_have_value("Dragon head")
    expect(page.get_by_role("contentinfo")).to_contain_text("picked:")
    stop(page, "Gather")
    page.get_by_role("button", name="Search the cabinet").click()
    search.fill("hen")
    page.get_by_label("Use it as").get_by_role("radio", name="as a picture to trace").click()
    page.get_by_role("button", name="Use Hen", exact=True).click()
    expect(page.get_by_role("navigation", name="Stops").get_by_role("button", name="Trace")).to_have_attribute(
        "aria-current", "step"
    )
    stop(page, "Gather")
    expect(page.get_by_role("textbox", name="Source")).to_have_value("Drelo's own cabinet")


def test_two_points_and_a_distance_give_the_scale(page):
    begin(page, pair())
    stop(page, "Gather")
    page.get_by_role("button", name="Scale").click()
    drag(page, (30, 120), (150, 120))
    fill(page, "Between the two points", "30")
    saved(page)
    stop(page, "Trace")
    part(page, "Look over")
    expect(page.get_by_text("0.25 mm", exact=True)).to_be_visible()
