"""What several browser tests do with a page, and songs for them that were heard once."""

import contextlib
import time

from playwright.sync_api import expect

HEAR = """
from django.core.files import File
from studio.actions.accounts import make_account
from studio.actions.importing import import_recording
owner = make_account("librarian", "paradiddle-diddle")
with open("PATH", "rb") as file:
    print(import_recording(owner, File(file, name="market take.ogg")).pk)
"""
STATE = """
from studio.models import Song
print(Song.objects.get(pk="SONG").jobs.first().state)
"""
CLONE = """
import os, shutil, sys
from django.db import close_old_connections
from django.contrib.auth.models import User
from studio.actions.copying import COPIED_FIELDS
from studio.models import Job, RunState, Song, SongBar
def clone(name):
    old = Song.objects.get(pk="SONG")
    values = {name: getattr(old, name) for name in COPIED_FIELDS}
    new = Song(owner=User.objects.get(username=name), **values)
    shutil.copytree(old.folder, new.folder, copy_function=os.link)
    new.save()
    SongBar.objects.bulk_create(
        SongBar(song=new, number=bar.number, hits=bar.hits, revision=bar.revision)
        for bar in old.bars.all())
    Job.objects.create(song=new, state=RunState.DONE, progress=1.0)
    return new.pk
print("ready", flush=True)
for line in sys.stdin:
    # Some tests kill the database in between.
    close_old_connections()
    print(clone(line.strip()), flush=True)
"""
PATIENCE_SECONDS = 90
"""These tests ask what happens, not how fast: a machine that runs them beside a listening run and
other tests stands still for half a minute now and then. `./orchesis bench` measures waits."""
LISTENING_SECONDS = 240


def hear(application, path):
    """Import a recording for nobody in particular, and wait until it has been listened to."""
    song = application.manage("shell", "-c", HEAR.replace("PATH", str(path))).splitlines()[-1]
    until = time.monotonic() + LISTENING_SECONDS
    while time.monotonic() < until:
        state = application.manage("shell", "-c", STATE.replace("SONG", song)).splitlines()[-1]
        if state == "done":
            return song
        assert state in ("queued", "running"), state
    raise AssertionError("the recording was not listened to in time")


@contextlib.contextmanager
def cloning(application, song):
    """Gives a function: the same song, as it was heard, for somebody; its files by second names."""
    with application.talk("shell", "-c", CLONE.replace("SONG", song)) as clerk:
        while clerk.stdout.readline().strip() != "ready":
            assert clerk.poll() is None

        def clone(name):
            clerk.stdin.write(f"{name}\n")
            clerk.stdin.flush()
            made = clerk.stdout.readline().strip()
            assert made, "the clerk is gone"
            return made

        yield clone


def choose(page, label, words):
    """From a list that opens: by the words of what is chosen, the first where there are several."""
    page.get_by_role("combobox", name=label).click()
    page.get_by_role("option", name=words).first.click()
    page.locator(".p-select-list").wait_for(state="hidden")


def undo(page):
    """Take the last edit back by key; returns when the page has taken it back too."""
    with page.expect_response("**/undo") as answered:
        page.keyboard.press("Control+z")
    answer = answered.value.json()
    expect(page.locator("[data-test=notice]")).to_contain_text(answer["words"])
    expect(page.locator("[data-test=undo]")).to_be_enabled(enabled=answer["can_undo"])


def window_of(browser, **options):
    """Somebody's window, in which nobody is signed in; as patient as all of them here."""
    context = browser.new_context(**options)
    context.set_default_timeout(PATIENCE_SECONDS * 1000)
    return context
