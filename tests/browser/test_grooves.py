"""The Grooves stage by real use: a section by keyboard alone, two people at one bar, no network."""

import json
import uuid
from dataclasses import replace
from fractions import Fraction

import pytest
from playwright.sync_api import expect

from benchmarks.browser import WINDOW
from orchesis.limbs.assign import assign_limbs
from orchesis.music.instruments import Instrument, Limb, Status
from orchesis.music.json import dumps
from orchesis.music.values import Hit
from tests.browser.helpers import choose, undo, window_of
from tests.browser.test_slice import notes_of, saved, sign_up
from tests.composing import ROCK, song

pytestmark = pytest.mark.browser

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED
BARS = 8


def composed():
    """Eight bars as they are played, and the same with errors of hearing planted in them."""
    played = song([ROCK] * BARS)
    truth = played.with_hits(assign_limbs(played.hits, 4))
    heard = []
    for hit in truth.hits:
        if (hit.bar, hit.instrument, hit.position) == (2, KICK, Fraction(1, 2)):
            continue  # a kick that was missed
        if (hit.bar, hit.instrument, hit.position) == (3, SNARE, Fraction(1, 4)):
            hit = replace(hit, instrument=Instrument.CROSS_STICK)
        if (hit.bar, hit.instrument, hit.position) == (5, SNARE, Fraction(3, 4)):
            hit = replace(hit, status=Status.DOUBTFUL, confidence=0.4)
        if (hit.bar, hit.instrument, hit.position) == (6, SNARE, Fraction(1, 4)):
            hit = replace(hit, position=Fraction(5, 16), time=hit.time + 0.125)
        heard.append(hit)
    # A ghost that nobody played, and a note that was taken for one.
    heard.append(
        Hit(4.4, SNARE, 30, 3, Fraction(15, 16), ghost=True, confidence=0.5, limb=Limb.LEFT_HAND)
    )
    heard = [
        replace(hit, ghost=True, accent=False)
        if (hit.bar, hit.instrument, hit.position) == (7, SNARE, Fraction(1, 4))
        else hit
        for hit in heard
    ]
    return truth, truth.with_hits(heard)


@pytest.fixture
def song_id(page, application, sound, tmp_path):
    """A composed song with planted errors on the shelf of whoever the page belongs to."""
    sign_up(page, application)
    name = page.evaluate("fetch('/api/session').then((a) => a.json()).then((s) => s.username)")
    file = tmp_path / "planted.json"
    file.write_text(dumps(composed()[1]))
    made = application.manage("store_score", name, "Planted", str(file), "--audio", str(sound))
    open_at(page, application, made)
    return made


def open_at(page, application, made):
    page.goto(f"{application.address}/songs/{made}")
    expect(page.locator("[data-bar='1'] .note").first).to_be_visible()


def stored(page, song_id):
    """The hits of every bar, as the bytes that the server holds."""
    return page.evaluate(
        "(id) => fetch(`/api/songs/${id}/files/transcription.json`).then((a) => a.text())", song_id
    )


def sounding(text):
    """What is written, without who decided it and why."""
    return {
        (h["bar"], h["position"], h["instrument"], h["ghost"], h["accent"], h["status"])
        for h in json.loads(text)["hits"]
        if h["status"] != "left_out"
    }


def press(page, *keys):
    for key in keys:
        page.keyboard.press(key)


def go(page, bar, sixteenth, limb):
    """To a place by arrows only, from wherever the cursor is."""
    where = page.evaluate("JSON.parse(sessionStorage.getItem(Object.keys(sessionStorage)"
                          ".find((k) => k.startsWith('orchesis.cursor'))))")  # fmt: skip
    steps = bar - where["bar"]
    press(page, *["PageDown" if steps > 0 else "PageUp"] * abs(steps))
    steps = round(16 * (sixteenth / 16 - float(Fraction(where["position"]))))
    press(page, *["ArrowRight" if steps > 0 else "ArrowLeft"] * abs(steps))
    lanes = ["RH", "LH", "RF", "LF"]
    steps = lanes.index(limb) - lanes.index(where["limb"])
    press(page, *["ArrowDown" if steps > 0 else "ArrowUp"] * abs(steps))


def test_a_section_is_corrected_by_keyboard_alone_and_undone_byte_for_byte(page, song_id):
    original = stored(page, song_id)
    page.locator("body").click(position={"x": 5, "y": 600})

    go(page, 2, 8, "RF")
    press(page, "k")  # the kick that was missed
    go(page, 3, 4, "LH")
    press(page, "1")  # a snare, not a cross-stick
    go(page, 3, 15, "LH")
    press(page, "n")  # nobody played that ghost: leave it out
    press(page, "d")  # on to the doubt
    expect(page.get_by_label("The note at the cursor")).to_contain_text("bar 5")
    press(page, "y")  # it is there
    go(page, 6, 5, "LH")
    press(page, "Control+ArrowLeft")  # a sixteenth early
    go(page, 7, 4, "LH")
    press(page, "a")  # no ghost: an accent
    saved(page)
    truth, _ = composed()
    assert sounding(stored(page, song_id)) == sounding(dumps(truth))

    # All bars of the section are confirmed at one stroke, and counted as such.
    go(page, 1, 0, "LH")
    press(page, *["Shift+PageDown"] * (BARS - 1), "Shift+y")
    expect(page.get_by_label("The section")).to_contain_text("8 of 8 confirmed")

    # Undo reaches back through the whole session, also after a reload.
    press(page, "Escape")
    for step in range(9):
        if page.locator("[data-test=undo]").is_disabled():
            break
        undo(page)
        if step == 3:
            page.reload()
            expect(page.locator("[data-bar='1'] .note").first).to_be_visible()
    expect(page.locator("[data-test=undo]")).to_be_disabled()
    assert stored(page, song_id) == original


def test_an_edit_goes_to_all_like_bars_by_one_key(page, song_id):
    page.locator("body").click(position={"x": 5, "y": 600})
    go(page, 1, 14, "LH")
    press(page, "g")
    saved(page)
    press(page, "Shift+Enter")
    expect(page.locator("[data-test=notice]")).to_contain_text("The same in")
    ghosts = {h[0] for h in sounding(stored(page, song_id)) if h[1] == "7/8" and h[3]}
    assert {1, 4, 8} <= ghosts
    undo(page)
    expect(page.locator("[data-test=notice]")).to_contain_text("Undone: The same in")
    ghosts = {h[0] for h in sounding(stored(page, song_id)) if h[1] == "7/8" and h[3]}
    assert ghosts == {1}


def test_two_people_at_the_same_bar_never_overwrite_each_other(page, application, song_id):
    """The same account in two browsers: each changes the same snare; the second must choose."""
    cookies = page.context.cookies()
    other_context = window_of(page.context.browser, viewport=WINDOW)
    other_context.add_cookies(cookies)
    other = other_context.new_page()
    open_at(other, application, song_id)
    for shown in (page, other):
        shown.locator("body").click(position={"x": 5, "y": 600})
        go(shown, 4, 4, "LH")
    press(page, "g")
    saved(page)
    press(other, "j")
    dialog = other.get_by_role("dialog")
    expect(dialog).to_contain_text("Bar 4")
    assert ("snare", True) in {(h[2], h[3]) for h in sounding(stored(page, song_id)) if h[0] == 4}
    other.locator("[data-test='mine-4']").click()
    saved(other)
    expect(dialog).to_have_count(0)
    hits = [h for h in json.loads(stored(page, song_id))["hits"] if h["bar"] == 4]
    assert [h["ornament"] for h in hits if h["position"] == "1/4"].count("flam") == 1
    # Different bars never meet.
    go(page, 5, 4, "LH")
    go(other, 6, 0, "RH")
    press(page, "g")
    press(other, "a")
    saved(page)
    saved(other)
    other_context.close()


def test_twenty_seconds_without_a_connection_lose_nothing(page, application, song_id):
    page.locator("body").click(position={"x": 5, "y": 600})
    press(page, "]")
    before = notes_of(page, 4)
    go(page, 4, 1, "LH")
    press(page, "s")
    page.context.set_offline(True)
    for sixteenth in (3, 5, 7, 9):
        go(page, 4, sixteenth, "LH")
        press(page, "s")
        page.wait_for_timeout(5_000)
    expect(page.locator("[data-test=saved]")).to_contain_text("kept here")
    assert notes_of(page, 4) == before + 5
    page.context.set_offline(False)
    saved(page)
    snares = {h[1] for h in sounding(stored(page, song_id)) if h[0] == 4 and h[2] == "snare"}
    assert {"1/16", "3/16", "5/16", "7/16", "9/16"} <= snares


def test_listening_aids_sound(page, song_id):
    page.locator("body").click(position={"x": 5, "y": 600})
    go(page, 3, 4, "LH")
    press(page, "Shift+L")
    expect(page.locator(".transport")).to_contain_text("in bar 3")
    choose(page, "What you hear", "In turn")
    page.get_by_role("button", name="right foot").click()
    expect(page.get_by_role("button", name="right foot")).to_have_attribute("aria-pressed", "false")
    press(page, "Space")
    levels = []
    for _ in range(30):
        page.wait_for_timeout(150)
        levels.append(float(page.locator("[data-test=level]").get_attribute("data-level")))
    assert max(levels) > 0.005, "nothing sounded"
    press(page, "Space")
    press(page, "Shift+W")
    expect(page.locator("[data-test=notice]")).to_contain_text("The kit plays without")
    press(page, "Shift+S")
    expect(page.get_by_role("img", name="The sound of bar 3")).to_be_visible()
    for tab, text in (("Count", "1 & 2 & 3 & 4 &"), ("Kin", "One note away")):
        page.get_by_role("tab", name=tab).click()
        expect(page.locator(".panel")).to_contain_text(text)


LANES = {"RH": 14, "LH": 30, "RF": 51, "LF": 67}
"""Pixels from the top of a row to each lane (stages/grooves/rowLayout.ts)."""


def point(page, bar, sixteenth, limb):
    box = page.locator(f"[data-bar='{bar}'] svg.lanes").bounding_box()
    return box["x"] + 22 + sixteenth / 16 * (box["width"] - 22), box["y"] + LANES[limb]


def test_the_mouse_drags_a_late_backbeat_to_its_place_and_selects_bars(page, song_id):
    def backbeats():
        hits = json.loads(stored(page, song_id))["hits"]
        return [h["position"] for h in hits if (h["bar"], h["instrument"]) == (6, "snare")]

    assert backbeats() == ["5/16", "3/4"]
    page.locator("[data-bar='6']").scroll_into_view_if_needed()
    late = point(page, 6, 5, "LH")
    page.mouse.click(*late)
    page.mouse.move(*late)
    page.mouse.down()
    page.mouse.move(*point(page, 6, 4, "LH"), steps=4)
    expect(page.locator("rect.target")).to_be_visible()
    page.mouse.up()
    saved(page)
    assert backbeats() == ["1/4", "3/4"]
    page.mouse.move(*point(page, 6, 0, "RH"))
    page.mouse.down()
    page.mouse.move(*point(page, 6, 15, "LF"), steps=6)
    page.mouse.up()
    expect(page.get_by_label("The note at the cursor")).to_contain_text("12 notes selected")
    assert notes_of(page, 6) == 12, "dragging is no click: nothing was added"


def come_to_rest(locator):
    """How far down it is, once it scrolls no more."""
    before = None
    while (now := locator.bounding_box()["y"]) != before:
        before = now
        locator.page.wait_for_timeout(150)
    return now


@pytest.mark.parametrize("width", [360, 390])
def test_all_beats_of_a_bar_are_in_sight_on_a_phone(page, application, song_id, width):
    page.set_viewport_size({"width": width, "height": 780})
    open_at(page, application, song_id)
    last = page.locator("[data-bar='4'] .note").evaluate_all(
        "notes => Math.max(...notes.map(note => note.getBoundingClientRect().right))"
    )
    edge = page.locator("[data-bar='4']").locator("xpath=ancestor::ol").bounding_box()
    assert width / 2 < last < edge["x"] + edge["width"]
    assert page.locator("main.body").evaluate("it => it.scrollWidth <= it.clientWidth")
    page.keyboard.press("Alt+1")
    expect(page.get_by_role("heading", name="What we hear")).to_be_visible()
    assert page.evaluate("document.scrollingElement.scrollHeight <= window.innerHeight")


def test_a_finger_that_holds_still_selects_and_one_that_moves_scrolls(page, application, song_id):
    context = window_of(
        page.context.browser,
        viewport=WINDOW,
        has_touch=True,
        storage_state=page.context.storage_state(),
    )
    phone = context.new_page()
    open_at(phone, application, song_id)
    touch = context.new_cdp_session(phone)

    def send(kind, *where):
        points = [{"x": x, "y": y} for x, y in where]
        touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    top = phone.locator("[data-bar='4']").bounding_box()["y"]
    x, y = point(phone, 4, 0, "RH")
    send("touchStart", (x, y))
    for moved in range(20, 121, 20):
        send("touchMove", (x, y - moved))
    send("touchEnd")
    panel = phone.get_by_label("The note at the cursor")
    expect(panel).not_to_contain_text("selected")
    assert come_to_rest(phone.locator("[data-bar='4']")) < top, "the stack scrolled along"
    # However far it went: the last bar is in sight, and nothing lies over it.
    phone.locator("[data-bar='8']").scroll_into_view_if_needed()
    come_to_rest(phone.locator("[data-bar='8']"))
    first, far = point(phone, 8, 0, "RH"), point(phone, 8, 8, "LF")
    send("touchStart", first)
    phone.wait_for_timeout(500)
    send("touchMove", far)
    send("touchEnd")
    # Five hats, two kicks and a backbeat.
    expect(panel).to_contain_text("8 notes selected")
    context.close()


def test_another_s_song_is_not_shown(page, application, song_id):
    page.context.clear_cookies()
    sign_up(page, application)
    page.goto(f"{application.address}/songs/{song_id}")
    expect(page.get_by_role("heading", name="This song cannot be shown")).to_be_visible()
    page.goto(f"{application.address}/songs/{uuid.uuid4()}")
    expect(page.get_by_role("heading", name="This song cannot be shown")).to_be_visible()


WHOLE_ROWS = """() => {
  const list = document.querySelector('.rows').getBoundingClientRect()
  return [...document.querySelectorAll('.rows .row')].filter((row) => {
    const box = row.getBoundingClientRect()
    return box.top >= list.top - 1 && box.bottom <= list.bottom + 1
  }).length
}"""


def test_dense_rows_have_nine_bars_in_sight_and_stay_chosen(page, song_id):
    assert page.evaluate(WHOLE_ROWS) < 8
    page.locator("[data-test=dense]").click()
    expect(page.locator(".name.dense").first).to_be_visible()
    page.wait_for_timeout(300)
    assert 1 + page.evaluate(WHOLE_ROWS) >= 9, "the phrase is one of them"
    # A click still finds the lane: here the left foot's, the lowest.
    page.locator("[data-bar='2'] svg").click(position={"x": 100, "y": 41})
    expect(page.locator("[data-bar='2'] .cursor")).to_be_visible()
    page.reload()
    expect(page.locator("[data-test=dense]")).to_have_attribute("aria-pressed", "true")


def test_a_song_is_heard_again_while_it_stays_open(page, song_id):
    before = stored(page, song_id)
    page.keyboard.press("Alt+1")
    page.locator("[data-test=listen-again]").click()
    expect(page.locator("[data-test=listen-again]")).to_be_enabled()
    # The recording is noise, in which nothing is heard.
    expect(page.locator("[data-test=notice]")).to_contain_text("nothing would be")
    assert stored(page, song_id) == before


def test_what_was_heard_anew_is_looked_at_before_it_is_taken(page, song_id, application):
    before = stored(page, song_id)
    heard = json.loads(before)
    gone = next(hit for hit in heard["hits"] if hit["bar"] == 8 and hit["instrument"] == "kick")
    heard["hits"].remove(gone)
    (folder,) = application.folder.rglob(song_id)
    (folder / "heard-again.json").write_text(json.dumps(heard))
    page.reload()
    page.locator("[data-test=look-heard]").click()
    expect(page.get_by_role("dialog")).to_contain_text("kick on 1 goes")
    assert stored(page, song_id) == before, "nothing has changed yet"
    page.locator("[data-test=take-heard]").click()
    expect(page.locator("[data-test=notice]")).to_contain_text("one bar changed")
    expect(page.locator("[data-test=look-heard]")).to_have_count(0)
    assert gone["position"] not in [
        hit["position"]
        for hit in json.loads(stored(page, song_id))["hits"]
        if hit["bar"] == 8 and hit["instrument"] == "kick"
    ]
    press(page, "Control+Z")
    expect(page.locator("[data-test=notice]")).to_contain_text("Undone: Heard again")
    assert stored(page, song_id) == before
