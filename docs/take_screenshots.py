"""Take every picture of docs/screenshots/ afresh: `./orchesis screenshots`.

Starts the demo on a scratch database, so that the pictures show what a newcomer sees.
"""

from __future__ import annotations

import sys
from pathlib import Path

from playwright.sync_api import Page

from benchmarks.browser import WINDOW, browser, enter_demo, open_song
from launcher.scratch import scratch_application

FOLDER = Path(__file__).parent / "screenshots"
SONG = "Rain on the Awning"


CLASS = """
import uuid
from datetime import timedelta
from django.contrib.auth.models import User
from django.utils import timezone
from studio.actions import groups
from studio.actions.accounts import make_account
from studio.models import PracticeEntry, Song
from studio.people import SeatRole
teacher = User.objects.filter(account__visit_ends_at__isnull=False).latest("pk")
song = Song.objects.get(owner=teacher, title="SONG")
group = groups.make_group(teacher, "Tuesday class", "class")
token = groups.invite(group, 30).token
played = {"Ilse": [60, 60, 61], "Marek": [58, 66, 74], "Noor": [84], "Tilda": [], "Bram": [50]}
students = {name: make_account(name, "four-on-the-floor-7") for name in played}
for student in students.values():
    groups.join(student, token)
for other in Song.objects.filter(owner=teacher):
    groups.put_song(group, teacher, other.pk, SeatRole.READER)
due = timezone.localdate() + timedelta(days=5)
first = song.header["sections"][1]["first_bar"] if song.header else 1
given = groups.give(group, teacher, song=song.pk, target=f"section-{first}", level="all", bpm=84,
                    due=due, words="Ghosts soft; count aloud.")
for name, tempi in played.items():
    for ago, bpm in enumerate(reversed(tempi)):
        PracticeEntry.objects.create(
            song=song, owner=students[name], client_id=uuid.uuid4(), target=given.target, step="a",
            title="All of it", played_at=timezone.now() - timedelta(days=2 * ago), share=bpm / 84,
            bpm=bpm, loops=4, minutes=9, feeling="work",
            told=["The left hand is 14 ms late."] if name == "Ilse" else [])
for title, wisher in (("Slow Ferry", "Noor"), ("Night Bus Home", "Marek")):
    groups.vote(groups.wish(group, students[wisher], title), students["Ilse"], is_for=True)
""".replace("SONG", SONG)


def take(page: Page, name: str) -> None:
    """One picture, when fonts and data have arrived."""
    page.wait_for_load_state("networkidle")
    page.evaluate("document.fonts.ready")
    page.screenshot(path=FOLDER / f"{name}.png")
    print(f"  {name}.png", flush=True)


def main() -> int:
    """Take all pictures."""
    FOLDER.mkdir(exist_ok=True)
    with scratch_application(demo=True) as application, browser() as opened:
        page = opened.new_page(viewport=WINDOW)
        page.goto(application.address)
        page.locator("[data-test=demo]").wait_for()
        take(page, "sign-in")
        enter_demo(page, application.address)
        page.locator("a.title").nth(3).wait_for(timeout=300_000)
        take(page, "songs")
        open_song(page, "Harbour Lights Out")
        page.keyboard.press("Alt+1")
        page.wait_for_timeout(600)
        take(page, "listen")
        page.keyboard.press("Alt+3")
        page.locator("[data-test=answer]").first.wait_for()
        page.keyboard.press("ArrowRight")
        page.wait_for_timeout(900)
        take(page, "review")
        page.keyboard.press("Alt+2")
        page.keyboard.press("w")
        page.wait_for_timeout(900)
        page.keyboard.press("ArrowDown")
        page.wait_for_timeout(300)
        take(page, "form")
        page.keyboard.press("w")
        page.goto(f"{application.address}/songs")
        open_song(page, SONG)
        page.keyboard.press("Alt+4")
        page.locator('[aria-label="Loop bar 7"]').click()
        page.locator('[aria-label="Loop bar 8"]').click(modifiers=["Shift"])
        page.locator("body").press("Home")
        page.locator("[data-bar='7'] svg").click(position={"x": 330, "y": 36})
        page.locator("[data-test=saved]", has_text="Every edit saved").wait_for()
        take(page, "grooves")
        page.locator("[data-test=play]").click()
        page.locator("[data-bar='7'].now").wait_for(timeout=20_000)
        page.locator("body").press("Alt+7")
        page.locator(".sheets g.note").first.wait_for(state="attached")
        page.wait_for_timeout(900)
        take(page, "chart")
        page.locator("[data-test=play]").click()
        for key, name in (("r", "chart-essence"), ("r", "chart-map"), ("n", "")):
            page.locator("body").press(key)
            page.wait_for_timeout(900)
            if name:
                take(page, name)
        page.locator("body").press("r")
        page.locator("body").press("r")
        page.wait_for_timeout(900)
        take(page, "chart-limbs")
        page.locator("body").press("n")
        page.locator("body").press("b")
        page.wait_for_timeout(900)
        take(page, "chart-stand")
        page.locator("body").press("Escape")
        page.locator("body").press("Alt+5")
        page.wait_for_timeout(900)
        take(page, "fills")
        page.locator("body").press("Alt+6")
        page.wait_for_timeout(900)
        take(page, "feel")
        page.locator("body").press("Alt+8")
        page.locator("[data-test=practise]").wait_for()
        page.locator("body").press("ArrowDown")
        page.locator("body").press("ArrowDown")
        page.wait_for_timeout(900)
        take(page, "practice")
        page.locator("body").press("Enter")
        page.locator("body").press("Space")
        page.locator("[data-test=head]").wait_for()
        page.wait_for_timeout(7000)
        take(page, "practice-player")
        page.locator("body").press("Escape")
        page.locator("body").press("Alt+4")
        page.locator("body").press("?")
        page.locator("[role=dialog]").wait_for()
        page.wait_for_timeout(400)
        take(page, "keys")
        application.manage("shell", "-c", CLASS)
        page.goto(f"{application.address}/people")
        page.locator("[data-test=student]").first.wait_for()
        take(page, "people")
        phone = opened.new_page(viewport={"width": 390, "height": 844})
        enter_demo(phone, application.address)
        open_song(phone, SONG)
        phone.locator(".stages button", has_text="Chart").click()
        phone.locator(".sheets g.note").first.wait_for(state="attached")
        phone.wait_for_timeout(1500)
        take(phone, "chart-phone")
        phone.locator(".stages button", has_text="Practice").click()
        phone.locator("[data-test=practise]").click()
        phone.locator("[data-test=practice-play]").wait_for()
        phone.wait_for_timeout(600)
        take(phone, "practice-phone")
    return 0


if __name__ == "__main__":
    sys.exit(main())
