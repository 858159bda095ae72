"""What the Practice stage shows, as plain values: what can be practised, its plans, the log."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

from django.contrib.auth.models import AnonymousUser, User
from django.utils import timezone

from orchesis.chart.options import Level
from orchesis.errors import Missing
from orchesis.groove.count import SCHOOLS, CountWords, ruler
from orchesis.limbs.difficulty import difficulty
from orchesis.limbs.kit import Player
from orchesis.music.instruments import SPOKEN_NAMES, Instrument
from orchesis.music.values import Bar, Hit, Transcription
from orchesis.practice.exposure import (
    BREAK_AFTER_MINUTES,
    LOCAL_RULES_WORDS,
    STOP_WORDS,
    WARM_UP_WORDS,
    dose,
    minutes_left,
)
from orchesis.practice.ladder import FARTHEST_POCKET_MS
from orchesis.practice.material import (
    Material,
    fill_material,
    groove_material,
    has_groove,
    material,
)
from orchesis.practice.meter import level_at_ear
from orchesis.practice.plans import METHOD_WORDS, Method, Step, make_plan
from orchesis.practice.schedule import Due, Feeling, Played, next_session
from orchesis.practice.sounding import Sounding, pocket_of, sounding, time_of
from orchesis.practice.thinned import LEVEL_WORDS, thinned
from orchesis.practice.variation import choices
from orchesis.practice.voice import counted_aloud
from orchesis.practice.zoom import zoom
from studio.models import PracticeEntry, PracticeItem, PracticePlan, Song
from studio.people import Assignment
from studio.values.access import given_to
from studio.values.fills import exercise_of

GROOVE, FILL, EXERCISE = "section", "fill", "exercise"
AT = "--"
"""Between a groove or a fill and the level at which it is practised, in addresses and logs."""
DIGITS = 4
MOST_LOGGED = 300
"""Entries of the log that are shown; the file has all of them."""


@dataclass(frozen=True)
class Target:
    """What is practised: the groove of a section, or a fill. key : as addresses name it."""

    key: str
    name: str
    kind: str


def targets_of(score: Transcription, listed: Iterable[PracticeItem] = ()) -> tuple[Target, ...]:
    """Each groove once, by the first section that plays it, the fills, what was put on the list."""
    grooves: dict[str, Target] = {}
    for section in score.sections:
        mark = section.mark or section.label
        if mark not in grooves and has_groove(score, section):
            grooves[mark] = Target(f"{GROOVE}-{section.first_bar}", section.label, GROOVE)
    fills = [Target(f"{FILL}-{fill.bar}", f"Fill in bar {fill.bar}", FILL) for fill in score.fills]
    put = [Target(f"{EXERCISE}-{item.bar}-{item.key}", item.title, EXERCISE) for item in listed]
    return (*grooves.values(), *fills, *put)


def material_of(score: Transcription, target: str, player: Player) -> Material:
    """The notes that a target means. Raises Missing where the song has none such."""
    target, level = split_target(target)
    found = _material_of(thinned(score, level), target, player)
    if level in LEVEL_WORDS:
        return replace(found, name=f"{found.name}, {LEVEL_WORDS[level]}")
    return found


def split_target(target: str) -> tuple[str, Level]:
    """What is practised, and at which level. Raises Missing for a level that there is not."""
    base, _, level = target.partition(AT)
    if not level:
        return target, Level.ALL
    if level not in set(Level):
        raise Missing("there is no such level: choose another one")
    return base, Level(level)


def target_at(target: str, level: str) -> str:
    """The name of a target at a level; exercises have one level only."""
    is_whole = level == Level.ALL or target.startswith(EXERCISE)
    return target if is_whole else f"{target}{AT}{level}"


def _material_of(score: Transcription, target: str, player: Player) -> Material:
    kind, _, number = target.partition("-")
    if number.isdigit():
        if kind == GROOVE:
            for section in score.sections:
                if section.first_bar == int(number):
                    return groove_material(score, section, player)
        for fill in score.fills if kind == FILL else ():
            if fill.bar == int(number):
                return fill_material(score, fill, player)
    bar, _, key = number.partition("-")
    if kind == EXERCISE and bar.isdigit():
        return material(*exercise_of(score, int(bar), key, player), player)
    raise Missing("this song has nothing of that name to practise any more")


def plan_of(
    score: Transcription,
    target: str,
    player: Player,
    school: str,
    goal: float | None = None,
) -> tuple[Material, dict[str, Step]]:
    """The material of a target, and every step of every method by its key.

    goal : the tempo that a teacher asks for, in bpm.
    """
    material = material_of(score, target, player)
    asked = None if goal is None else goal / _bpm_of(material)
    words = SCHOOLS[school]
    methods = [method for method in Method if material.is_fill or method is not Method.FILL]
    # What is there for fills comes first for fills.
    methods.sort(key=lambda method: method is not Method.FILL)
    steps = {
        f"{method.value}-{index}": step
        for method in methods
        for index, step in enumerate(make_plan(material, method, player, words, asked=asked))
    }
    return material, steps


def _bpm_of(material: Material) -> float:
    first = material.bars[0]
    return 60 * first.meter.pulses / (first.end - first.start)


def plan_values(
    score: Transcription, target: str, player: Player, school: str, goal: float | None = None
) -> dict[str, Any]:
    """All ways to practise a groove or a fill; `goal`: the tempo that a teacher asks for."""
    material, steps = plan_of(score, target, player, school, goal)
    words = SCHOOLS[school]
    bpm = _bpm_of(material)
    late = pocket_of(score)
    hard = difficulty(material.bars, material.hits, player)
    methods: dict[str, list[str]] = {}
    for key in steps:
        methods.setdefault(key.rpartition("-")[0], []).append(key)
    return {
        "target": target,
        "name": material.name,
        "is_fill": material.is_fill,
        "bpm": round(bpm, 1),
        "difficulty": round(hard.value, 1),
        "difficulty_words": hard.words,
        "farthest_late": FARTHEST_POCKET_MS / 1000,
        "overdub_words": _left_words(material),
        "bars": [
            _bar_values(bar, score, words) for bar in (material.loops or (material,))[-1].bars
        ],
        "methods": [
            {"value": value, "words": METHOD_WORDS[Method(value)], "steps": keys}
            for value, keys in methods.items()
        ],
        "steps": [
            _step_values(key, step, score, late, player, bpm=bpm, school=school)
            for key, step in steps.items()
        ],
        "variation": [
            {
                "name": choice.name,
                "standing": choice.standing.value,
                "bar": choice.hit.bar,
                "position": str(choice.hit.position),
                "instrument": choice.hit.instrument.value,
            }
            for choice in choices(material, words)
        ],
    }


def _left_words(material: Material) -> list[str]:
    counts = Counter(hit.instrument for hit in material.left_to_overdub)
    return [
        f"{SPOKEN_NAMES[drum]}: {count} left to another pair of hands"
        for drum, count in counts.items()
    ]


def _bar_values(bar: Bar, score: Transcription, words: CountWords) -> dict[str, Any]:
    return {
        "number": bar.number,
        "start": round(bar.start, DIGITS),
        "end": round(bar.end, DIGITS),
        "places": [
            {
                "time": round(time_of(bar, position, score.feel), DIGITS),
                "word": word,
                "is_beat": (position * bar.meter.pulses).denominator == 1,
            }
            for position, word in ruler(bar.divisions, bar.meter, words)
        ],
    }


def _step_values(
    key: str,
    step: Step,
    score: Transcription,
    late: dict[Instrument, float],
    player: Player,
    *,
    bpm: float,
    school: str,
) -> dict[str, Any]:
    bars = {bar.number: bar for bar in step.bars}
    first, last = step.bars[0], step.bars[-1]
    notes = sounding(step.bars, step.hits, score.feel, late, with_dynamics=step.with_dynamics)
    return {
        "key": key,
        "title": step.title,
        "with_dynamics": step.with_dynamics,
        "start": round(first.time_at(step.start), DIGITS),
        "end": round(last.time_at(step.end), DIGITS),
        "count": step.count,
        "sticking": step.sticking,
        "trap": step.trap,
        "difficulty": round(step.difficulty, 1),
        "rungs": [
            {"share": rung, "bpm": round(rung * bpm), "is_asked": rung == step.ladder.asked}
            for rung in step.ladder.rungs
        ],
        "loops": step.ladder.loops,
        "ladder_words": step.ladder.words,
        "minutes": step.ladder.minutes,
        "level_db": round(
            level_at_ear(
                [(note.hit.instrument, note.velocity) for note in notes],
                last.time_at(step.end) - first.time_at(step.start),
            )
        ),
        "notes": [note_values(note) for note in notes],
        "voice": [
            {"time": round(item.time, DIGITS), "word": item.word, "sample": item.sample}
            for item in counted_aloud(step.bars, step.hits, SCHOOLS[school])
        ],
        "windows": [
            {
                "start": round(time_of(bars[window.first_bar], window.start, score.feel), DIGITS),
                "end": round(bars[window.last_bar].time_at(window.end), DIGITS),
                "words": window.words,
            }
            for window in zoom(step.bars, step.hits, player)
        ],
    }


def note_values(note: Sounding) -> dict[str, Any]:
    """A note as the player of the screen needs it."""
    hit = note.hit
    return {
        "time": round(note.time, DIGITS),
        "late": round(note.late, DIGITS),
        "bar": hit.bar,
        "position": str(hit.position),
        "instrument": hit.instrument.value,
        "limb": hit.limb.value if hit.limb else None,
        "velocity": note.velocity,
        "ghost": hit.ghost,
        "accent": hit.accent,
        "half": hit.is_half_open,
    }


def overview_values(
    song: Song, score: Transcription, viewer: User | AnonymousUser
) -> dict[str, Any]:
    """What can be practised, what was, and what is next; of a guest nothing is kept here."""
    owner = viewer if isinstance(viewer, User) else None
    plans = list(PracticePlan.objects.filter(song=song, owner=owner))
    entries = list(PracticeEntry.objects.filter(song=song, owner=owner))
    listed = PracticeItem.objects.filter(song=song, owner=owner)
    targets = targets_of(score, listed)
    names = {target.key: target.name for target in targets}

    def is_there(target: str) -> bool:
        return split_target(target)[0] in names

    def name_of(target: str) -> str:
        base, level = split_target(target)
        words = LEVEL_WORDS.get(level)
        return f"{names[base]}, {words}" if words else names[base]

    return {
        "targets": [
            {"key": target.key, "name": target.name, "kind": target.kind} for target in targets
        ],
        "plans": [
            {
                "target": plan.target,
                "name": name_of(plan.target) if is_there(plan.target) else "No longer in the song",
                "is_there": is_there(plan.target),
                "steps": plan.steps,
                "at": min(plan.at, max(0, len(plan.steps) - 1)),
            }
            for plan in plans
        ],
        "session": [
            {"target": plan.target, "step": due.step, "share": due.share, **_due_values(due)}
            for plan in plans
            if is_there(plan.target)
            for due in next_session(plan.steps, _played(entries, plan.target), _today())
        ],
        "log": [entry_values(entry) for entry in entries[-MOST_LOGGED:]],
        "given": [given_values(one) for one in _given_here(song, viewer)],
        "body": body_values(owner),
    }


def _given_here(song: Song, viewer: User | AnonymousUser) -> Iterable[Assignment]:
    if not isinstance(viewer, User):
        return ()
    return given_to(viewer).filter(song=song).select_related("group")


def goal_of(song: Song, viewer: User | AnonymousUser, target: str) -> float | None:
    """The tempo that somebody was given for a target, in bpm; of several the highest."""
    given = _given_here(song, viewer)
    return max(
        (one.bpm for one in given if target_at(one.target, one.level) == target), default=None
    )


def given_values(one: Assignment) -> dict[str, Any]:
    """What a teacher asks for."""
    return {
        "id": one.pk,
        "target": one.target,
        "level": one.level,
        "name": one.name,
        "bpm": one.bpm,
        "due": one.due,
        "words": one.words,
        "group": one.group.name,
    }


def _due_values(due: Due) -> dict[str, Any]:
    return {"minutes": due.minutes, "words": due.words}


def _today() -> date:
    return timezone.now().date()


def _played(entries: Iterable[PracticeEntry], target: str) -> list[Played]:
    return [
        Played(
            entry.step,
            entry.played_at.date(),
            entry.share,
            entry.loops,
            entry.minutes,
            Feeling(entry.feeling),
        )
        for entry in entries
        if entry.target == target
    ]


def entry_values(entry: PracticeEntry) -> dict[str, Any]:
    """An entry of the log."""
    return {
        "client_id": str(entry.client_id),
        "target": entry.target,
        "step": entry.step,
        "title": entry.title,
        "played_at": entry.played_at.isoformat(),
        "share": entry.share,
        "bpm": entry.bpm,
        "loops": entry.loops,
        "minutes": entry.minutes,
        "feeling": entry.feeling,
        "level_db": entry.level_db,
        "told": entry.told,
    }


USUAL_LEVEL_DB = 95.0
"""At the ear of somebody who plays drums without protection, until it is measured or said."""


def body_values(owner: User | None) -> dict[str, Any]:
    """What ears have had today, over all songs, and what to take care of."""
    today = PracticeEntry.objects.filter(owner=owner, played_at__date=_today())
    heard = [(entry.level_db or USUAL_LEVEL_DB, entry.minutes) for entry in today]
    return {
        "dose": round(dose(heard), 3),
        "minutes_today": round(sum(minutes for _, minutes in heard), 1),
        "level_db": USUAL_LEVEL_DB,
        "minutes_left": round(minutes_left(heard, USUAL_LEVEL_DB), 1),
        "break_after": BREAK_AFTER_MINUTES,
        "stop_words": STOP_WORDS,
        "warm_up_words": WARM_UP_WORDS,
        "rule_words": LOCAL_RULES_WORDS,
    }


def pass_values(
    score: Transcription, hits: Sequence[Hit], material: Material, words: CountWords
) -> dict[str, Any]:
    """The notes of one pass of a free variation, and which of those that come and go are there."""
    notes = sounding(material.bars, hits, score.feel, pocket_of(score), with_dynamics=True)
    there = {hit.place for hit in hits}
    taken = [choice.name for choice in choices(material, words) if choice.hit.place in there]
    return {"notes": [note_values(note) for note in notes], "taken": taken}
