"""How the database finds things among 10^5 songs and 10^7 bars: `python -m benchmarks.plans`.

A database is filled, the requests that everybody makes all day are sent, each statement that they
need is asked for its plan. Told is what each took, and every statement that reads a large table
from one end to the other.
"""

from __future__ import annotations

import json
import sys
from typing import Any

from launcher.scratch import Scratch, scratch_application

FILL = """
import time, uuid
from django.contrib.auth.models import User
from django.db import connection, transaction
from studio.models import *
PEOPLE, EACH, BARS = {people}, {each}, {bars}
began = time.monotonic()
User.objects.bulk_create([User(username=f'person-{{n}}') for n in range(PEOPLE)])
owners = list(User.objects.order_by('id').values_list('pk', flat=True))
for owner in owners:
    songs = [Song(owner_id=owner, title=f'Song {{n}}', file_name='f', suffix='.ogg', revision=1,
                  counted_at=1, bar_count=BARS, duration=200.0, tempo_bpm=90 + n % 60)
             for n in range(EACH)]
    Song.objects.bulk_create(songs)
    Job.objects.bulk_create([Job(song=song, state='done', kind='listen') for song in songs])
with connection.cursor() as cursor:
    for share in range(16):
        cursor.execute(
            "INSERT INTO studio_songbar (song_id, number, hits, revision) "
            f"SELECT s.id, q.seq, '[]', 0 FROM studio_song s JOIN seq_1_to_{{BARS}} q "
            f"WHERE s.id LIKE '{{share:x}}%'")
    cursor.execute(
        "INSERT INTO studio_practiceentry (song_id, owner_id, client_id, target, step, title, "
        "played_at, share, bpm, loops, minutes, feeling, told) "
        "SELECT id, owner_id, UUID(), 'section-1', 'limbs-0', 'x', NOW(), 1, 90, 8, 4, "
        "'easy', '[]' FROM studio_song")
    cursor.execute('ANALYZE TABLE studio_song, studio_songbar, studio_job, studio_practiceentry')
print(round(time.monotonic() - began), Song.objects.count(), SongBar.objects.count())
"""

ASK = """
import json, time
from django.conf import settings
from django.contrib.auth.models import User
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from studio import metrics, queueing
from studio.actions.quotas import used_by
from studio.actions.tidying import _remove_jobs
from studio.models import Job, Song, SongBar
settings.ALLOWED_HOSTS.append('testserver')
user = User.objects.get(username='editor')
client = Client()
client.force_login(user)
song = Song.objects.get(owner=user, header__isnull=False).pk
def get(path):
    def ask():
        answer = client.get(path)
        assert answer.status_code in (200, 202), (path, answer.status_code)
    return ask
works = {
    'the shelf': get('/api/shelf'),
    'the shelf, searched': get('/api/shelf?search=song+7&sort=title'),
    'a song': get(f'/api/songs/{song}'),
    'its score': get(f'/api/songs/{song}/score'),
    'its history of a bar': get(f'/api/songs/{song}/history/1'),
    'practice': get(f'/api/songs/{song}/practice'),
    'what is given': get('/api/to-practise'),
    'the account': get('/api/account'),
    'a worker looks for work': lambda: queueing.claim_next('listen'),
    'the keeper looks round': lambda: (queueing.take_up_all(), queueing.sleeping_jobs()),
    'metrics': metrics.report,
    'old jobs tidied': _remove_jobs,
}
LARGE = {'studio_song', 'studio_songbar', 'studio_job', 'studio_practiceentry', 'auth_user'}
found = []
for name, work in works.items():
    work()
    began = time.monotonic()
    with CaptureQueriesContext(connection, ) as caught:
        work()
    took = time.monotonic() - began
    whole = []
    for query in caught.captured_queries:
        sql = query['sql']
        if not sql.lstrip().upper().startswith('SELECT'):
            continue
        with connection.cursor() as cursor:
            cursor.execute('EXPLAIN ' + sql.replace('%', '%%'))
            names = [column[0] for column in cursor.description]
            for row in cursor.fetchall():
                step = dict(zip(names, row))
                if step['type'] in ('ALL', 'index') and int(step['rows'] or 0) > 5000:
                    whole.append(f"{step['table']} ({step['rows']} rows): {sql[:110]}")
    found.append({'name': name, 'ms': 1000 * took, 'queries': len(caught), 'whole': whole})
print(json.dumps(found))
"""


def measure(people: int, each: int, bars: int) -> list[dict[str, Any]]:
    """Fill a database, ask, and say what each request took and read."""
    with scratch_application(demo=False) as running:
        print(_shell(running, FILL.format(people=people, each=each, bars=bars)), file=sys.stderr)
        _shell(running, "from studio.actions.accounts import make_account\n"
                        "make_account('editor', 'a-long-pass-word-7')")  # fmt: skip
        running.manage("store_score", "editor", "Song 7", _score(running))
        found: list[dict[str, Any]] = json.loads(_shell(running, ASK).splitlines()[-1])
        return found


def _shell(running: Scratch, code: str) -> str:
    return running.manage("shell", "--no-imports", "-c", code)


def _score(running: Scratch) -> str:
    from benchmarks.long_score import SIXTY_BARS, long_score
    from orchesis.music.json import dumps

    file = running.folder / "sixty.json"
    file.write_text(dumps(long_score(SIXTY_BARS)))
    return str(file)


def main() -> None:
    """Print a table."""
    people, each, bars = (int(one) for one in (sys.argv[1:] or ("1000", "100", "100")))
    print("| what | ms | statements | read from end to end |\n|---|---|---|---|")
    for one in measure(people, each, bars):
        whole = "; ".join(one["whole"]) or "nothing"
        print(f"| {one['name']} | {one['ms']:.0f} | {one['queries']} | {whole} |")


if __name__ == "__main__":
    main()
