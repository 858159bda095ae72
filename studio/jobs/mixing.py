"""Rendering a practice mix, with progress and cancel."""

from __future__ import annotations

import tempfile
from pathlib import Path

from django.conf import settings

from orchesis.groove.count import SCHOOLS
from orchesis.listening.parts import Part
from orchesis.practice.click import clicks, count_in
from orchesis.practice.mix import Mix, Sounds, encode_mp3, render_mix
from orchesis.practice.sounding import pocket_of, sounding
from orchesis.practice.voice import counted_aloud
from studio import artefacts
from studio.actions.practising import mix_path
from studio.jobs.running import Watch
from studio.models import Job
from studio.storage import need_room, told_when_full
from studio.values.kits import song_player
from studio.values.practice import plan_of
from studio.values.stored import load_transcription

FULL = "the mix was not rendered"
RENDERING = 0.85
"""Share of the work; the rest is encoding."""

BYTES_A_SECOND = 4 * 44100
MIXES_KEPT = 12


def render_practice_mix(job: Job, watch: Watch) -> str:
    """Render what the job's options ask for, for the song as it is now."""
    song, asked = job.song, job.options
    song.refresh_from_db()
    score = load_transcription(song)
    school = SCHOOLS[asked["school"]]
    _, steps = plan_of(score, asked["target"], song_player(song), asked["school"])
    step = steps[asked["step"]]
    first, last = step.bars[0], step.bars[-1]
    notes = sounding(
        step.bars, step.hits, score.feel, pocket_of(score), with_dynamics=step.with_dynamics
    )
    drums_down = song.part_path(Part.DRUMS_DOWN.value)
    record = drums_down if drums_down.exists() else song.listening_path
    mix = Mix(
        start=first.time_at(step.start),
        end=last.time_at(step.end),
        notes=notes,
        clicks=clicks(score, asked["click"]) if asked["click"] else (),
        count_in=count_in(score, first.number),
        shares=asked["shares"],
        loops=asked["loops"],
        voice=counted_aloud(step.bars, step.hits, school) if asked["voice"] else (),
        record=record if asked["record"] and song.suffix else None,
        sides=asked["sides"],
        with_kit=asked["kit"],
    )
    need_room(round(mix.seconds * BYTES_A_SECOND), FULL)
    public = Path(settings.PLAYER_SOUNDS)
    target = mix_path(song, asked)
    with told_when_full(FULL), tempfile.TemporaryDirectory(dir=song.folder) as folder:
        wav, done = Path(folder) / "mix.wav", Path(folder) / "mix.mp3"
        render_mix(
            mix,
            Sounds(public / "kit", public / "voice"),
            wav,
            report=lambda share: watch.report("mix", RENDERING * share),
            cancelled=watch.cancelled,
        )
        encode_mp3(wav, done, watch.cancelled)
        target.parent.mkdir(exist_ok=True)
        done.replace(target)
    made = sorted(target.parent.glob("*.mp3"), key=lambda path: path.stat().st_mtime_ns)
    for old in made[:-MIXES_KEPT]:
        artefacts.withdraw(old)
    return ""
