"""The Chart stage in use: readings, what sounds, a click on a note, words, a stand, a phone."""

import re

from playwright.sync_api import expect

from orchesis.chart.musicxml import to_musicxml
from orchesis.exchange.read import read_part
from tests.browser.helpers import choose
from tests.browser.test_slice import sign_up, song_page  # noqa: F401
from tests.composing import ROCK, song


def opened(page):
    page.keyboard.press("Alt+7")
    expect(page.locator(".sheets .sheet").first).to_be_visible()
    expect(page.locator(".sheets g.note").first).to_be_attached()
    return page


def test_readings_by_keys_and_what_sounds_is_lit(song_page):  # noqa: F811
    page = opened(song_page)
    heads = page.locator(".sheets g.note").count()
    # The browser, by its own measure, finds no words on words either.
    page.keyboard.press("c")
    expect(page.locator(".sheets text.t-count").first).to_be_attached()
    assert overlaps_of(page) == []
    page.keyboard.press("c")
    expect(page.get_by_role("heading", name="Note for note")).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_role("heading", name="Essence")).to_be_visible()
    expect(page.locator(".sheets text.t-time").first).to_be_attached()
    page.keyboard.press("r")
    expect(page.get_by_role("heading", name="Road map")).to_be_visible()
    expect(page.locator(".sheets .sheet")).to_have_count(1)
    page.keyboard.press("r")
    expect(page.get_by_label("Parts", exact=True)).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_role("heading", name="Note for note")).to_be_visible()
    expect(page.locator(".sheets g.note")).to_have_count(heads)
    page.keyboard.press("n")
    expect(page.locator(".sheets text.t-limb").first).to_be_attached()
    page.keyboard.press("n")
    # The bar that plays is lit, and its notes while they sound.
    page.keyboard.press("Enter")
    expect(page.locator(".sheets .note.lit").first).to_be_attached()
    expect(page.locator(".sheets .measure.sounding")).to_have_count(1)
    page.keyboard.press("Space")


def goes_to_a_note_and_back_to_the_bar_stack(page):
    # A folded bar is meant in the pass that is nearest to where one is: in the first one.
    page.get_by_role("slider", name="Place in the song").click(position={"x": 30, "y": 30})
    note = page.locator(".sheets g.note").nth(12)
    bar = re.match(r"n(\d+)-", note.get_attribute("id")).group(1)
    note.locator(".notehead").click(force=True)
    expect(page.get_by_role("heading", name=f"Bar {bar}", exact=True)).to_be_visible()
    page.get_by_role("button", name="To the bar stack").click()
    expect(page.locator(f"[data-bar='{bar}']").first).to_be_visible()


def puts_words_over_a_bar_and_takes_them_back(page):
    page.get_by_label("Cue").fill("vocals in")
    page.get_by_role("button", name="Put it there").click()
    expect(page.locator(".sheets text.t-cue", has_text="vocals in")).to_have_count(1)
    page.locator("h2").first.click()
    page.keyboard.press("Control+z")
    expect(page.locator(".sheets text.t-cue", has_text="vocals in")).to_have_count(0)


def takes_the_chart_that_is_seen(page, tmp_path):
    choose(page, "Level", "Hands only")
    expect(page.locator(".sheets g.note.kick")).to_have_count(0)
    with page.expect_download() as waiting:
        page.locator("[data-test='chart.musicxml']").click()
    target = tmp_path / "chart.musicxml"
    waiting.value.save_as(target)
    part = read_part(target.read_bytes(), "chart.musicxml").song
    assert part.hits
    assert "kick" not in {hit.instrument.value for hit in part.hits}
    # And compared with the song it says so.
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Compare a file").click()
    chooser.value.set_files(str(target))
    expect(page.locator("[data-test=compared]")).to_contain_text("bars say the same")


def stands_alone_on_the_stand(page):
    page.keyboard.press("b")
    expect(page.locator(".chart.big")).to_be_visible()
    expect(page.get_by_label("Reading", exact=True)).to_have_count(0)
    wide = page.locator(".sheets .sheet").first.bounding_box()["width"]
    assert wide > 0.9 * page.viewport_size["width"]
    page.keyboard.press("Escape")
    expect(page.locator(".chart.big")).to_have_count(0)


def is_one_narrow_sheet_on_a_phone(page):
    page.set_viewport_size({"width": 390, "height": 800})
    sheet = page.locator(".sheets .sheet")
    expect(sheet).to_have_count(1)
    expect(page.locator(".sheets g.note").first).to_be_attached()
    box = sheet.bounding_box()
    assert box["width"] <= 390
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    # The page has the room: ribbon and transport are one bar until somebody asks for more.
    bar = page.locator("footer.transport")
    assert bar.bounding_box()["height"] <= 66
    expect(page.get_by_role("slider", name="Place in the song")).to_be_hidden()
    page.locator("[data-test=more]").click()
    expect(page.get_by_role("slider", name="Place in the song")).to_be_visible()
    expect(page.get_by_role("combobox", name="What you hear")).to_be_visible()
    page.locator("[data-test=more]").click()


def fits_a_phone_on_its_side(page):
    """All of a line is seen, though the pages below it are not laid out yet."""
    narrow = page.locator(".sheets svg").first.get_attribute("viewBox")
    page.set_viewport_size({"width": 844, "height": 390})
    sheets = page.locator(".sheets")
    expect(sheets.locator("svg").first).not_to_have_attribute("viewBox", narrow)
    page.wait_for_load_state("networkidle")
    # A long song: more pages of the same.
    more = "for (let n = 0; n < 4; n++) all.append(all.querySelector('.sheet').cloneNode(true))"
    sheets.evaluate(f"all => {{ {more} }}")
    page.wait_for_timeout(300)
    for sheet in page.locator(".sheets .sheet").all():
        box = sheet.bounding_box()
        assert 700 < box["width"] <= 844 - box["x"]
    room = page.locator("[aria-label=Transport]").bounding_box()["y"]
    assert room - page.locator(".notice").bounding_box()["y"] > 200, "the chart has half of it"


def test_a_chart_in_use(song_page, tmp_path):  # noqa: F811
    """One song for all of it: it is listened to anew for each test."""
    page = opened(song_page)
    puts_words_over_a_bar_and_takes_them_back(page)
    stands_alone_on_the_stand(page)
    goes_to_a_note_and_back_to_the_bar_stack(page)
    opened(page)
    takes_the_chart_that_is_seen(page, tmp_path)
    is_one_narrow_sheet_on_a_phone(page)
    fits_a_phone_on_its_side(page)


def overlaps_of(page):
    """Words of the page that lie on each other, by the browser's own measure."""
    return page.evaluate(
        """() => {
      const boxes = [...document.querySelectorAll('.sheets svg .ink text')].map((item) => [
        item.textContent, item.getBoundingClientRect()])
      const found = []
      for (let i = 0; i < boxes.length; i++)
        for (let j = i + 1; j < boxes.length; j++) {
          const [one, a] = boxes[i], [other, b] = boxes[j]
          const x = Math.min(a.right, b.right) - Math.max(a.left, b.left)
          // A line of text is taller than its letters.
          const shared = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top)
          const y = shared - 0.35 * Math.min(a.height, b.height)
          if (x > 1 && y > 1) found.push(`${one} | ${other}`)
        }
      return found
    }"""
    )


def test_a_part_alone_becomes_a_song_that_can_be_played(page, application, tmp_path):
    sign_up(page, application)
    path = tmp_path / "elsewhere.musicxml"
    path.write_text(to_musicxml(song([ROCK] * 8)))
    page.locator("[data-test=file]").set_input_files(str(path))
    page.get_by_text("Composed").first.click()
    page.locator("[data-test=play]").click()
    expect(page.locator("[data-test=play]")).to_have_attribute("aria-label", "Pause")
    expect(page.get_by_label("What you hear")).to_contain_text("Chart kit")
