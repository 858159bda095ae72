"""Backups: what is kept, for how long; what is damaged is told; restored is what was backed up."""

import gzip
import json
import os
import subprocess
import sys
import threading
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from benchmarks.faults.stack import Person
from launcher import backup, services
from launcher.places import StepFailed
from launcher.scratch import scratch_application

ROOT = Path(__file__).resolve().parents[2]
NOON = datetime(2026, 11, 27, 12, 0, tzinfo=UTC)


def made_at(folder: Path, moment: datetime) -> Path:
    """A backup as small as they get."""
    place = folder / moment.strftime(backup.NAME)
    (place / backup.FILES / "song").mkdir(parents=True)
    (place / backup.FILES / "song" / "source.wav").write_bytes(b"sound")
    with gzip.open(place / backup.DATABASE, "wb") as file:
        file.write(b"CREATE TABLE song;")
    manifest = {
        "format": backup.FORMAT,
        "version": "0001_first",
        "made_at": moment.isoformat(),
        "database": backup._hash_of_packed(place / backup.DATABASE),
        "files": {
            "song/source.wav": {
                "size": 5,
                "changed": 1,
                "sha256": backup.hash_of(place / backup.FILES / "song" / "source.wav"),
            }
        },
    }
    (place / backup.MANIFEST).write_text(json.dumps(manifest))
    return place


def test_a_year_of_daily_backups_leaves_days_weeks_and_months(tmp_path):
    for ago in range(365, -1, -1):
        made_at(tmp_path, NOON - timedelta(days=ago))
        backup.prune(tmp_path)
    kept = backup.backups(tmp_path)
    ages = sorted((NOON - datetime(*backup._time_of(one)[:6], tzinfo=UTC)).days for one in kept)
    assert ages[: backup.DAYS] == list(range(backup.DAYS))
    assert len(kept) <= backup.DAYS + backup.WEEKS + backup.MONTHS
    # Something of each of the last weeks, and of each of the last twelve months.
    assert all(any(7 * week <= age < 7 * (week + 2) for age in ages) for week in range(3))
    months = {backup._time_of(one).tm_mon for one in kept}
    assert months == set(range(1, 13))


def test_backups_of_today_and_what_is_not_ours_are_left_alone(tmp_path):
    for hour in range(5):
        made_at(tmp_path, NOON + timedelta(hours=hour))
    (tmp_path / "holiday pictures").mkdir()
    (tmp_path / "backup-of-my-own").mkdir()
    assert backup.prune(tmp_path) == []
    assert len(backup.backups(tmp_path)) == 5
    assert (tmp_path / "holiday pictures").exists()


@pytest.mark.parametrize(
    ("harm", "told"),
    [
        (lambda at: (at / backup.FILES / "song" / "source.wav").unlink(), "is missing"),
        (lambda at: (at / backup.FILES / "song" / "source.wav").write_bytes(b"noise"), "damaged"),
        (lambda at: (at / backup.DATABASE).write_bytes(b"half"), "database.sql.gz is missing or"),
        (lambda at: os.truncate(at / backup.DATABASE, 20), "database.sql.gz is missing or"),
    ],
)
def test_what_is_damaged_is_told_and_not_restored(tmp_path, harm, told):
    place = made_at(tmp_path / "kept", NOON)
    assert backup.problems_of(place) == []
    harm(place)
    assert any(told in one for one in backup.problems_of(place))
    nowhere = backup.Connection("127.0.0.1", 1, "nobody", "", "nothing")
    with pytest.raises(StepFailed, match="damaged, nothing was restored"):
        backup.restore(nowhere, tmp_path / "media", place)
    assert not (tmp_path / "media").exists()


@pytest.mark.parametrize("content", [None, "not JSON", '{"format": 99}', "[]"])
def test_what_is_no_backup_is_refused(tmp_path, content):
    if content is not None:
        (tmp_path / backup.MANIFEST).write_text(content)
    with pytest.raises(StepFailed, match=r"no backup of Orchesis|newer Orchesis"):
        backup.read_manifest(tmp_path)


def test_of_files_that_change_meanwhile_the_one_of_that_moment_is_taken(tmp_path):
    early, late, moment = tmp_path / "early", tmp_path / "late", time.time()
    states = {
        "both": (moment - 50, moment - 50),
        "changed before": (moment - 50, moment - 1),
        "changed after": (moment - 50, moment + 1),
        "new": (None, moment - 1),
        "removed": (moment - 50, None),
    }
    for name, times in states.items():
        for tree, at in zip((early, late), times, strict=True):
            tree.mkdir(exist_ok=True)
            if at is not None:
                (tree / name).write_text(tree.name)
                os.utime(tree / name, (at, at))
    taken = {name: path.parent.name for name, path in backup._of_that_moment(early, late, moment)}
    assert taken == {
        "both": "late",
        "changed before": "late",
        "changed after": "early",
        "new": "late",
        "removed": "early",
    }


def test_a_database_that_is_away_leaves_nothing_behind(tmp_path):
    media = tmp_path / "media"
    (media / "song").mkdir(parents=True)
    (media / "song" / "source.wav").write_bytes(b"sound")
    away = backup.Connection("127.0.0.1", services.any_free(), "nobody", "", "nothing")
    with pytest.raises(StepFailed, match="could not be read"):
        backup.back_up(away, media, tmp_path / "kept", "0001")
    assert list((tmp_path / "kept").iterdir()) == []
    assert [path.name for path in media.iterdir()] == ["song"]


def orchesis(run: Path, *arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, str(ROOT / "orchesis"), *arguments],
        env={**os.environ, "ORCHESIS_RUN": str(run)},
        capture_output=True,
        text=True,
        check=False,
    )


MAKE_PEOPLE = """
import sys, time
from django.contrib.auth.models import User
from studio.models import Song
for number in range(10**6):
    owner = User.objects.create(username=f'drummer {number}')
    song = Song.objects.create(owner=owner, title='Ünïcode "; DROP', file_name='f', suffix='.wav')
    song.folder.mkdir(parents=True)
    (song.folder / 'shown').mkdir()
    (song.folder / 'shown' / 'cache').write_bytes(b'again')
    song.source_path.write_bytes(str(song.pk).encode() * 1000)
    print(song.pk, flush=True)
    time.sleep(0.01)
"""
COMPARE = """
from studio.models import Song
songs = list(Song.objects.select_related('owner'))
assert all(song.source_path.read_bytes() == str(song.pk).encode() * 1000 for song in songs[1:])
print(len(songs), *(song.pk for song in songs))
"""


def test_what_is_restored_is_what_was_backed_up_while_people_worked(tmp_path):
    kept, fresh = tmp_path / "kept", tmp_path / "fresh"
    with scratch_application(demo=False) as running:
        with running.talk("shell", "--no-imports", "-c", MAKE_PEOPLE) as people:
            assert people.stdout is not None
            begun = [people.stdout.readline().strip() for _ in range(20)]
            reader = threading.Thread(target=people.stdout.read, daemon=True)
            reader.start()
            first = orchesis(running.folder, "backup", "--to", str(kept))
            assert first.returncode == 0, first.stderr
            second = orchesis(running.folder, "backup", "--to", str(kept))
            assert second.returncode == 0, second.stderr
        one, other = backup.backups(kept)
        assert backup.problems_of(one) == backup.problems_of(other) == []
        names = backup.read_manifest(one)["files"]
        assert not any("shown" in name for name in names)
        # What both have takes its room once.
        song = f"{begun[0]}/source.wav"
        assert (one / backup.FILES / song).samefile(other / backup.FILES / song)

        refused = orchesis(running.folder, "restore", str(other))
        assert refused.returncode == 1
        assert "running already" in refused.stderr

    done = orchesis(fresh, "restore", str(other))
    assert done.returncode == 0, done.stderr
    assert "the same as" in done.stdout
    again = orchesis(fresh, "restore", str(other))
    assert again.returncode == 1
    assert "there is data here already" in again.stderr
    with scratch_application(demo=False, folder=fresh) as restored:
        count, *songs = restored.manage("shell", "--no-imports", "-c", COMPARE).split()
    assert int(count) > 20
    assert set(begun) <= set(songs)


LOOKED_AT = """
from studio.models import EditEntry, Kit, PracticeEntry, PracticePlan, Song
song = Song.objects.get(owner__username='ada')
print(
    song.title, song.revision, song.source_bytes == song.source_path.stat().st_size,
    EditEntry.objects.get().words, PracticeEntry.objects.get().bpm,
    PracticePlan.objects.get().steps, Kit.objects.get().name, sep='|'
)
"""


def test_a_database_of_an_older_version_comes_along_with_all_that_is_in_it(tmp_path):
    older = ROOT / "tests" / "cases" / "older" / "backup-0008"
    fresh = tmp_path / "fresh"
    done = orchesis(fresh, "restore", str(older))
    assert done.returncode == 0, done.stderr
    with scratch_application(demo=False, folder=fresh) as restored:
        told = restored.manage("shell", "--no-imports", "-c", LOOKED_AT)
        port = int(restored.address.rpartition(":")[2])
        ada = Person(port)
        ada.get("/api/session")
        status, _ = ada.post(
            "/api/session/sign-in", {"username": "ada", "password": "a-long-pass-word"}
        )
        assert status == 200
        song = ada.get("/api/shelf")[1]["songs"][0]["id"]
        # What was done before the upgrade is taken back after it.
        status, undone = ada.post(f"/api/songs/{song}/undo", {})
    assert told == (
        "Eight bars|2|True|Bar 2: cowbell on beat 4 added|96.0|['limb_by_limb-0']|Two toms"
    )
    assert status == 200, undone
    assert "cowbell" in undone["words"]
