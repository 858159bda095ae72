"""What somebody decides and does while practising: the plan's steps, the log, mixes."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from orchesis.errors import InvalidTranscription
from studio import artefacts
from studio.models import OPEN_STATES, Job, JobKind, PracticeEntry, PracticePlan, Song
from studio.queueing import NotNow, queue_job, take_up
from studio.values.kits import song_player, stamp_of
from studio.values.practice import plan_of
from studio.values.shown import code_stamp
from studio.values.stored import load_transcription

MOST_PLANS = 100
MOST_ENTRIES = 20_000
"""Of one person in one song: ten years of an hour a day."""

MIXES_LOOKED_AT = 12


def keep_plan(
    song: Song,
    owner: User,
    *,
    target: str,
    steps: Sequence[str],
    at: int,
    school: str,
    seen: Song | None = None,
) -> PracticePlan:
    """Keep which steps of a target are practised, in which order.

    seen : the edition of the song that its steps are of; by default the song as it is now.

    Raises Missing where the song has no such target, InvalidTranscription for a step that it does
    not have, NotNow where there are too many plans.
    """
    shown = seen or song
    _, known = plan_of(load_transcription(shown), target, song_player(shown), school)
    strange = [step for step in steps if step not in known]
    if strange:
        raise InvalidTranscription(f"there is no step {strange[0]!r} here: read the plan anew")
    if len(set(steps)) != len(steps):
        raise InvalidTranscription("a step can be in a plan once only")
    mine = PracticePlan.objects.filter(song=song, owner=owner)
    if mine.exclude(target=target).count() >= MOST_PLANS:
        raise NotNow(f"{MOST_PLANS} plans are kept for this song: take some off first.")
    plan, _ = PracticePlan.objects.update_or_create(
        song=song,
        owner=owner,
        target=target,
        defaults={"steps": list(steps), "at": min(at, max(0, len(steps) - 1))},
    )
    return plan


def enter_log(song: Song, owner: User, entries: Sequence[Mapping[str, Any]]) -> int:
    """Enter what was practised; what has come before is not entered again.

    Gives back how many are new. Raises NotNow where the log is full.
    """
    with transaction.atomic():
        sent = [entry["client_id"] for entry in entries]
        known = set(
            PracticeEntry.objects.filter(owner=owner, client_id__in=sent).values_list(
                "client_id", flat=True
            )
        )
        fresh = {entry["client_id"]: entry for entry in entries if entry["client_id"] not in known}
        if fresh and PracticeEntry.objects.filter(song=song, owner=owner).count() >= MOST_ENTRIES:
            raise NotNow("The log of this song is full: save it as a file and clear it.")
        PracticeEntry.objects.bulk_create(
            [PracticeEntry(song=song, owner=owner, **entry) for entry in fresh.values()],
            # Two tabs may send the same at the same moment.
            ignore_conflicts=True,
        )
    return len(fresh)


def mix_path(song: Song, asked: Mapping[str, Any]) -> Path:
    """Where a mix of the song as it is now lies, made or not.

    asked : what is asked for; `code` among it is the version of the code that asked, where another
        one makes the mix.
    """
    told = json.dumps(_wish(asked), sort_keys=True)
    code = asked.get("code", code_stamp())
    stamp = f"{told} {song.revision} {code} {stamp_of(song_player(song))}"
    return song.folder / "mixes" / f"{hashlib.sha256(stamp.encode()).hexdigest()[:20]}.mp3"


def ask_for_mix(song: Song, asked: Mapping[str, Any]) -> Job | None:
    """The job that renders a mix; None where it is there already."""
    if artefacts.have(mix_path(song, asked)):
        return None
    with transaction.atomic():
        Song.objects.select_for_update().only("pk").get(pk=song.pk)
        job = latest_mix(song, asked)
        if job is not None and job.state in OPEN_STATES:
            return job
        return queue_job(song, JobKind.MIX, options={**asked, "code": code_stamp()})


def latest_mix(song: Song, asked: Mapping[str, Any]) -> Job | None:
    """The newest job for just this mix."""
    recent = song.jobs.filter(kind=JobKind.MIX)[:MIXES_LOOKED_AT]
    job = next((job for job in recent if _wish(job.options) == dict(asked)), None)
    if job is not None and job.is_stale:
        take_up(job)
    return job


def _wish(options: Mapping[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in options.items() if name != "code"}


def cancel_mix(song: Song, asked: Mapping[str, Any]) -> None:
    """Stop rendering it, if it is being rendered."""
    job = latest_mix(song, asked)
    if job is not None and job.state in OPEN_STATES:
        Job.objects.filter(pk=job.pk, state__in=OPEN_STATES).update(cancel_requested=True)
