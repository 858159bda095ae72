"""What several browser tests do with a page, and songs for them that were heard once."""

import time

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
import os, shutil
from django.contrib.auth.models import User
from studio.actions.publishing import COPIED
from studio.models import Job, RunState, Song, SongBar
old = Song.objects.get(pk="SONG")
values = {name: getattr(old, name) for name in COPIED}
new = Song(owner=User.objects.get(username="USER"), **values)
shutil.copytree(old.folder, new.folder, copy_function=os.link)
new.save()
SongBar.objects.bulk_create(
    SongBar(song=new, number=bar.number, hits=bar.hits, revision=bar.revision)
    for bar in old.bars.all())
Job.objects.create(song=new, state=RunState.DONE, progress=1.0)
print(new.pk)
"""
PATIENCE_SECONDS = 120


def hear(application, path):
    """Import a recording for nobody in particular, and wait until it has been listened to."""
    song = application.manage("shell", "-c", HEAR.replace("PATH", str(path))).splitlines()[-1]
    until = time.monotonic() + PATIENCE_SECONDS
    while time.monotonic() < until:
        state = application.manage("shell", "-c", STATE.replace("SONG", song)).splitlines()[-1]
        if state == "done":
            return song
        assert state in ("queued", "running"), state
    raise AssertionError("the recording was not listened to in time")


def clone(application, song, name):
    """The same song, as it was heard, for somebody: its files by second names."""
    code = CLONE.replace("SONG", song).replace("USER", name)
    return application.manage("shell", "-c", code).splitlines()[-1]


def choose(page, label, words):
    """From a list that opens: by the words of what is chosen, the first where there are several."""
    page.get_by_role("combobox", name=label).click()
    page.get_by_role("option", name=words).first.click()
    page.locator(".p-select-list").wait_for(state="hidden")
