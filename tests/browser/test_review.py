"""The review by real use: questions answered by keys, an answer undone, the chart at the end."""

import pytest
from playwright.sync_api import expect

from orchesis.limbs.assign import assign_limbs
from orchesis.music.instruments import Instrument
from orchesis.music.json import dumps
from tests.browser.test_slice import sign_up
from tests.composing import ROCK, song

pytestmark = pytest.mark.browser

KICK = Instrument.KICK
STRAY = {**ROCK, KICK: "x.......x.x....."}


@pytest.fixture
def reviewed(page, application, tmp_path, sound):
    """A song in which two bars of twelve have a kick that the others lack, in its review."""
    composed = song([ROCK] * 10 + [STRAY] * 2)
    played = composed.with_hits(assign_limbs(composed.hits, 4))
    file = tmp_path / "stray.json"
    file.write_text(dumps(played))
    sign_up(page, application)
    who = page.evaluate("fetch('/api/session').then((a) => a.json()).then((s) => s.username)")
    made = application.manage("store_score", who, "Stray", str(file), "--audio", str(sound))
    page.goto(f"{application.address}/songs/{made}")
    expect(page.locator(".rows .row").first).to_be_visible()
    return page


def test_questions_are_answered_by_key_and_the_chart_is_at_the_end(reviewed):
    page = reviewed
    page.get_by_role("button", name="Review: 1 question").click()
    expect(page.get_by_role("heading", name="Kick on the & of 3")).to_be_visible()
    expect(page.locator("[data-test=left]")).to_have_text("1 question, about 1 minute")
    expect(page.get_by_role("img", name="Bar 11 on the staff")).to_be_visible()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("img", name="Bar 12 on the staff")).to_be_visible()
    page.keyboard.press("2")
    expect(page.get_by_role("heading", name="Nothing left to ask")).to_be_visible()
    expect(page.get_by_role("button", name="Review")).to_contain_text("all answered")
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_role("heading", name="Kick on the & of 3")).to_be_visible()
    page.keyboard.press("1")
    page.get_by_role("button", name="Open the chart").click()
    expect(page.locator(".sheets g.note").first).to_be_attached(timeout=20_000)


def test_a_question_that_is_skipped_is_asked_again_when_one_wishes(reviewed):
    page = reviewed
    page.keyboard.press("Alt+3")
    expect(page.locator("[data-test=answer]")).to_have_count(2)
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("heading", name="1 skipped")).to_be_visible()
    page.get_by_role("button", name="Go through them").click()
    expect(page.locator("[data-test=answer]")).to_have_count(2)


def test_sections_are_closed_and_opened_in_the_stack(reviewed):
    page = reviewed
    rows = page.locator(".rows .row")
    many = rows.count()
    page.locator(".section button").first.click()
    expect(page.locator(".fold")).to_contain_text("12 bars")
    assert rows.count() < many
    page.keyboard.press("PageDown")
    expect(page.locator("[data-bar='2']")).to_be_visible()
