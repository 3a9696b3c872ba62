"""Nothing that a hand did is lost: a lost connection, a lost answer, a refusal, a second window, a broken view."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import BrowserContext, Page, Route, expect

from tests.browser.hand import begin, saved, solid_seen, stop
from tests.browser.test_raise import two_bars

EDITS = "**/api/pieces/*/edits"


def base(page: Page, label: str) -> Any:
    return page.get_by_role("textbox", name=label, exact=True)


def put(page: Page, label: str, value: str) -> None:
    base(page, label).fill(value)
    base(page, label).press("Enter")


def piece(page: Page) -> dict[str, Any]:
    found: dict[str, Any] = page.request.get(f"/api/pieces/{page.url.rsplit('/', 1)[1]}").json()["piece"]
    return found


def told(page: Page, words: str) -> None:
    expect(page.get_by_role("status").filter(has_text=re.compile(f"^{words}"))).to_be_visible()


@pytest.fixture
def raised(page: Page) -> Page:
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    saved(page)
    return page


def test_edits_wait_for_a_lost_connection_and_are_made_in_order(raised):
    before = piece(raised)["revision"]
    raised.route(EDITS, lambda route: route.abort())
    put(raised, "Thickness", "3")
    put(raised, "Margin", "4")
    told(raised, "waiting for Drelo")
    # What was typed first does not flick back while it waits.
    expect(base(raised, "Thickness")).to_have_value("3")
    expect(base(raised, "Margin")).to_have_value("4")
    assert piece(raised)["revision"] == before
    raised.unroute(EDITS)
    saved(raised)
    now = piece(raised)
    assert (now["document"]["base"]["thickness"], now["document"]["base"]["margin"]) == (3, 4)
    assert now["revision"] > before


def test_an_edit_whose_answer_was_lost_is_made_once(raised):
    sent: list[str] = []

    def lose(route: Route) -> None:
        sent.append(route.request.headers["idempotency-key"])
        if len(sent) == 1:
            route.fetch()
            route.abort()
        else:
            route.continue_()

    raised.route(EDITS, lose)
    put(raised, "Thickness", "3")
    saved(raised)
    raised.unroute(EDITS)
    assert len(sent) == 2
    raised.keyboard.press("Control+z")
    saved(raised)
    expect(base(raised, "Thickness")).to_have_value("2")


def test_one_that_is_refused_takes_none_of_the_others_with_it(raised):
    held: list[Route] = []
    all_put = False

    def answer(route: Route) -> None:
        if route.request.post_data_json["edit"].get("thickness") != 3:
            route.continue_()
            return
        problem = {"title": "No", "status": 422, "detail": "Too thick for this test.", "field": "base.thickness"}
        route.fulfill(status=422, json=problem)

    # However slow the hand: the first is not answered before all three wait.
    raised.route(EDITS, lambda route: answer(route) if all_put else held.append(route))
    put(raised, "Margin", "4")
    put(raised, "Thickness", "3")
    put(raised, "Margin", "5")
    all_put = True
    for route in held:
        answer(route)
    told(raised, "last change not saved")
    expect(raised.get_by_text("Too thick for this test.").first).to_be_visible()
    assert piece(raised)["document"]["base"]["margin"] == 5
    assert piece(raised)["document"]["base"]["thickness"] == 2


def test_closing_the_page_with_waiting_edits_warns(raised):
    asked: list[str] = []
    raised.on("dialog", lambda dialog: (asked.append(dialog.type), dialog.dismiss()))
    raised.route(EDITS, lambda route: route.abort())
    put(raised, "Thickness", "3")
    told(raised, "waiting for Drelo")
    raised.close(run_before_unload=True)
    raised.wait_for_timeout(500)
    assert asked == ["beforeunload"]
    raised.unroute(EDITS)
    saved(raised)


def test_edits_left_behind_on_the_bench_are_made_from_the_list(raised):
    key = raised.url.rsplit("/", 1)[1]
    raised.route(EDITS, lambda route: route.abort())
    put(raised, "Thickness", "3")
    told(raised, "waiting for Drelo")
    raised.get_by_role("link", name="All pieces").click()
    expect(raised.get_by_role("heading", name="Pieces")).to_be_visible()
    with raised.expect_response(EDITS) as answer:
        raised.unroute(EDITS)
    assert answer.value.ok
    found = raised.request.get(f"/api/pieces/{key}").json()["piece"]
    assert found["document"]["base"]["thickness"] == 3


def test_a_second_window_shows_at_once_what_the_first_made(raised, context: BrowserContext):
    other = context.new_page()
    other.goto(raised.url)
    stop(other, "Raise")
    put(raised, "Thickness", "3")
    expect(base(other, "Thickness")).to_have_value("3")
    expect(other.get_by_text("changed in another window").first).to_be_visible()
    put(other, "Margin", "4")
    expect(base(raised, "Margin")).to_have_value("4")
    other.close()


def test_two_windows_that_edit_at_once_keep_both_changes(raised, context: BrowserContext):
    other = context.new_page()
    # The other one hears of nothing before it sends.
    other.add_init_script("delete window.BroadcastChannel")
    other.goto(raised.url)
    stop(other, "Raise")
    expect(base(other, "Margin")).to_be_visible()
    put(raised, "Thickness", "3")
    saved(raised)
    put(other, "Margin", "4")
    saved(other)
    expect(other.get_by_text("Both changes are kept").first).to_be_visible()
    assert piece(other)["document"]["base"]["thickness"] == 3
    assert piece(other)["document"]["base"]["margin"] == 4
    other.close()


@pytest.mark.parametrize("kind", ["slider", "switch", "field"])
def test_undo_works_from_whatever_has_the_focus(raised, kind):
    before = piece(raised)["document"]
    if kind == "slider":
        raised.get_by_role("slider", name=re.compile("^Height of")).press("ArrowUp")
    elif kind == "switch":
        raised.get_by_role("radiogroup", name="Form").get_by_role("radio", name="Cutter").click()
        saved(raised)
        before = piece(raised)["document"]
        raised.get_by_role("switch").first.click()
    else:
        put(raised, "Thickness", "3")
    saved(raised)
    assert piece(raised)["document"] != before
    raised.keyboard.press("Control+z")
    saved(raised)
    raised.wait_for_timeout(300)
    assert piece(raised)["document"] == before


def test_a_view_that_breaks_leaves_the_rest_of_the_page(context: BrowserContext, raised):
    def broken(route: Route) -> None:
        answer = route.fetch()
        body = answer.json()
        body["flat"]["things"] = None
        route.fulfill(response=answer, json=body)

    # A page of its own: errors are what is wanted here.
    page = context.new_page()
    page.route("**/api/pieces/*", broken)
    page.goto(raised.url)
    expect(page.get_by_role("alert").filter(has_text="could not be drawn").first).to_be_visible()
    expect(page.get_by_role("navigation", name="Stops")).to_be_visible()
    page.unroute("**/api/pieces/*")
    stop(page, "Raise")
    expect(base(page, "Thickness")).to_be_visible()
    page.close()


def test_a_view_that_could_not_be_loaded_is_asked_for_again(page: Page) -> None:
    cut: list[str] = []

    def first_time(route: Route) -> None:
        cut.append(route.request.url)
        if len(cut) == 1:
            route.abort()
        else:
            route.continue_()

    page.route("**/assets/SolidView-*.js", first_time)
    begin(page, two_bars(), "bars.png")
    solid_seen(page)
    assert len(cut) == 2
