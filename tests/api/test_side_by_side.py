"""Two people at one song at the same moment: who waits for whom, and who does not."""

import threading
import uuid
from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import close_old_connections, connection, transaction

from orchesis.edits.edit import Edit, EditConflict
from orchesis.edits.gesture import Gesture
from orchesis.music.json import hit_from_json
from studio.actions import action
from studio.actions.action import Action, NotYours, WholeSong, perform
from studio.actions.grid import ConfirmFinding
from studio.actions.history import undo
from studio.actions.locking import lock_bars, lock_song
from studio.actions.notes import EditBars
from studio.models import EditEntry, Job, Song
from studio.queueing import looked_at

pytestmark = pytest.mark.django_db(transaction=True)
SOON = 4.0


class Nothing(WholeSong):
    """A change of the whole song that leaves it as it is."""

    words = "nothing"

    def change(self, song, score):
        return score


@pytest.fixture
def everybody_may(monkeypatch):
    """Somebody else's songs can be edited too, as those of a band are."""
    monkeypatch.setattr(Action, "may", lambda *_: True)


def test_nobody_changes_a_song_of_somebody_else(ben, ada_song):
    edit = EditBars(uuid.uuid4(), removing(ada_song, 1))
    for change in (Nothing(), ConfirmFinding("tempo", True), edit):
        with pytest.raises(NotYours):
            perform(ada_song, ben, change)
    assert not EditEntry.objects.exists()


def removing(song, *numbers):
    """The first note of each of these bars removed."""
    hits = [hit_from_json(song.bars.get(number=number).hits[0]) for number in numbers]
    return Gesture(tuple(Edit(hit, None) for hit in hits))


def in_a_thread(pool, work):
    def alone():
        try:
            with connection.cursor() as cursor:
                cursor.execute("SET innodb_lock_wait_timeout=3")
            return work()
        finally:
            close_old_connections()
            connection.close()

    return pool.submit(alone)


@pytest.mark.parametrize(("first", "second"), [(1, 3), (3, 1)])
@pytest.mark.usefixtures("everybody_may")
def test_two_people_at_different_bars_do_not_wait(ada, ben, ada_song, monkeypatch, first, second):
    """The one is in the midst of her change while the other begins and ends his."""
    hers, his = removing(ada_song, first), removing(ada_song, second)
    in_the_midst, go_on = threading.Event(), threading.Event()
    real = action.apply_gesture

    def slowly(bars, gesture):
        if gesture == hers:
            in_the_midst.set()
            assert go_on.wait(2 * SOON)
        return real(bars, gesture)

    monkeypatch.setattr(action, "apply_gesture", slowly)
    with ThreadPoolExecutor(2) as pool:
        slow = in_a_thread(pool, lambda: perform(ada_song, ada, EditBars(uuid.uuid4(), hers)))
        assert in_the_midst.wait(SOON)
        quick = in_a_thread(pool, lambda: perform(ada_song, ben, EditBars(uuid.uuid4(), his)))
        assert quick.result(SOON).words
        assert not slow.done()
        go_on.set()
        assert slow.result(SOON).words


@pytest.mark.parametrize(("first", "second"), [((1, 3), (3, 2)), ((3, 2), (1, 3))])
def test_gestures_over_bars_that_overlap_wait_in_turn_and_never_crosswise(
    ada, ada_song, first, second
):
    ready = threading.Barrier(2)

    def edit(numbers):
        gesture = removing(ada_song, *numbers)
        ready.wait(SOON)
        try:
            return perform(ada_song, ada, EditBars(uuid.uuid4(), gesture)).words
        except EditConflict:
            return "conflict"

    with ThreadPoolExecutor(2) as pool:
        both = [in_a_thread(pool, lambda n=numbers: edit(n)) for numbers in (first, second)]
        words = [one.result(10) for one in both]
    assert words.count("conflict") == 1, "bar 3 had one such note only"
    assert EditEntry.objects.count() == 1


def test_many_edits_of_many_bars_at_once_are_all_counted(ada, ada_song):
    before = ada_song.revision
    gestures = [removing(ada_song, number) for number in (1, 2, 3, 4)]

    with ThreadPoolExecutor(4) as pool:
        edits = [
            in_a_thread(pool, lambda g=gesture: perform(ada_song, ada, EditBars(uuid.uuid4(), g)))
            for gesture in gestures
        ]
        revisions = [edit.result(10).song.revision for edit in edits]
    assert sorted(revisions) == [before + 1, before + 2, before + 3, before + 4]


def test_a_change_of_the_whole_song_waits_for_an_edit_and_an_edit_for_it(ada, ada_song):
    gesture = removing(ada_song, 2)
    with ThreadPoolExecutor(1) as pool:
        with transaction.atomic():
            lock_song(ada_song)
            edit = in_a_thread(
                pool, lambda: perform(ada_song, ada, EditBars(uuid.uuid4(), gesture))
            )
            with pytest.raises(TimeoutError):
                edit.result(0.5)
        assert edit.result(SOON).words
        with transaction.atomic():
            lock_bars(ada_song, [4])
            whole = in_a_thread(pool, lambda: perform(ada_song, ada, Nothing()))
            with pytest.raises(TimeoutError):
                whole.result(0.5)
        assert whole.result(SOON).words == "nothing"


def test_edits_and_confirmations_at_once_lose_nothing(ada, ada_song):
    gestures = [removing(ada_song, number) for number in (1, 2, 3, 4)]
    findings = ["tempo", "meter", "first beat", "feel"]
    with ThreadPoolExecutor(4) as pool:
        works = [
            *(lambda g=g: perform(ada_song, ada, EditBars(uuid.uuid4(), g)) for g in gestures),
            *(lambda f=f: perform(ada_song, ada, ConfirmFinding(f, True)) for f in findings),
        ]
        for done in [in_a_thread(pool, work) for work in works]:
            done.result(15)
    fresh = Song.objects.get(pk=ada_song.pk)
    assert fresh.header["confirmed"] == sorted(findings)
    assert EditEntry.objects.count() == 4
    assert fresh.revision == ada_song.revision + 8


def test_two_tabs_that_undo_at_once_take_back_two_steps(ada, ada_song):
    for number in (1, 2, 3):
        perform(ada_song, ada, EditBars(uuid.uuid4(), removing(ada_song, number)))
    with ThreadPoolExecutor(2) as pool:
        both = [in_a_thread(pool, lambda: undo(ada_song, ada)) for _ in range(2)]
        words = {one.result(10).words for one in both}
    assert len(words) == 2
    assert EditEntry.objects.filter(undone=False).get().bar_number == 1


def test_who_looks_at_a_song_does_not_wait_for_the_worker_that_takes_its_job(ada_song):
    job = Job.objects.create(song=ada_song)
    with ThreadPoolExecutor(1) as pool:
        with transaction.atomic():
            Job.objects.select_for_update().get(pk=job.pk)
            in_a_thread(pool, lambda: looked_at(ada_song)).result(timeout=1.5)
            job.refresh_from_db()
            assert job.asked_at is None
        in_a_thread(pool, lambda: looked_at(ada_song)).result(timeout=1.5)
    job.refresh_from_db()
    assert job.asked_at is not None
