"""The shelf: found by words and tags, sorted, a page at a time, from what is stored."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import User
from django.db.models import Count, F, Max, OuterRef, Q, QuerySet, Subquery

from studio.models import Job, PracticeEntry, PracticePlan, Song
from studio.people import GroupSong, Seat, Tag
from studio.queueing import RUNS, take_up
from studio.values.access import ROLE_NAMES, Role, shared_with
from studio.values.presenting import run_values

SORTS = {
    "newest": ("-created_at",),
    "title": ("title", "-created_at"),
    "tempo": ("tempo_bpm", "title"),
    "doubts": ("-doubt_count", "title"),
    "difficulty": ("difficulty", "title"),
    "practised": (F("practised").desc(nulls_last=True), "-created_at"),
}
LEFT = {"doubts": Q(doubt_count__gt=0), "nothing": Q(doubt_count=0, revision__gt=0)}
NOT_SHOWN = ("header", "loudness")
PAGE = 40
TEMPO_NEAR = 3.0
"""A number that is searched for is a tempo too: so many beats a minute beside it are it still."""


@dataclass(frozen=True)
class ShelfWish:
    """What is looked for. left: doubts, nothing, or empty for all of them."""

    search: str = ""
    sort: str = "newest"
    tag: str = ""
    left: str = ""
    page: int = 1


def shelf_values(user: User, wish: ShelfWish) -> dict[str, Any]:
    """A page of the shelf."""
    shared = shared_with(user)
    mine = Q(owner=user) | Q(pk__in=list(shared)) if shared else Q(owner=user)
    songs = _found(Song.objects.filter(mine, is_copy_for=None), user, wish)
    count = songs.count()
    pages = max(1, -(-count // PAGE))
    page = min(max(1, wish.page), pages)
    if wish.sort == "practised":
        songs = songs.annotate(practised=_practised(user))
    rows = list(
        songs.order_by(*SORTS[wish.sort], "pk")
        .defer(*NOT_SHOWN)
        .select_related("owner")[(page - 1) * PAGE : page * PAGE]
    )
    return {
        "songs": _rows(rows, user, shared),
        "count": count,
        "page": page,
        "pages": pages,
        "tags": [
            {"name": name, "count": many}
            for name, many in Tag.objects.filter(owner=user)
            .values_list("name")
            .annotate(many=Count("pk"))
            .order_by("name")
        ],
    }


def _found(songs: QuerySet[Song], user: User, wish: ShelfWish) -> QuerySet[Song]:
    for word in wish.search.split():
        fits = Q(title__icontains=word) | Q(performer__icontains=word)
        fits |= Q(feel__icontains=word) | Q(rhythms__icontains=word) | Q(meter=word)
        fits |= Q(tags__owner=user, tags__name__iexact=word)
        number = word.removesuffix("bpm")
        if number.replace(".", "", 1).isdigit() and len(number) <= 6:
            tempo = float(number)
            fits |= Q(tempo_bpm__range=(tempo - TEMPO_NEAR, tempo + TEMPO_NEAR))
        songs = songs.filter(fits)
    if wish.tag:
        songs = songs.filter(tags__owner=user, tags__name=wish.tag)
    if wish.left:
        songs = songs.filter(LEFT[wish.left])
    return songs.distinct() if wish.search or wish.tag else songs


def _practised(user: User) -> Subquery:
    own = PracticeEntry.objects.filter(song=OuterRef("pk"), owner=user)
    return Subquery(own.order_by("-played_at").values("played_at")[:1])


def _rows(songs: list[Song], user: User, shared: dict[Any, Role]) -> list[dict[str, Any]]:
    """What a page shows: a statement for each kind of thing, whatever the number of songs."""
    keys = [song.pk for song in songs]
    jobs: dict[Any, Job] = {}
    for job in Job.objects.filter(song__in=keys, kind__in=RUNS, source=None).order_by("pk"):
        jobs[job.song_id] = job
    for job in jobs.values():
        if job.is_stale:
            take_up(job)
    practised = dict(
        PracticeEntry.objects.filter(song__in=keys, owner=user)
        .values_list("song_id")
        .annotate(last=Max("played_at"))
        .values_list("song_id", "last")
    )
    plans: dict[Any, PracticePlan] = {}
    for plan in PracticePlan.objects.filter(song__in=keys, owner=user).order_by("updated_at"):
        plans[plan.song_id] = plan
    tags: dict[Any, list[str]] = {}
    for song, name in Tag.objects.filter(song__in=keys, owner=user).values_list("song_id", "name"):
        tags.setdefault(song, []).append(name)
    seen = set(Seat.objects.filter(song__in=keys).values_list("song_id", flat=True))
    seen |= set(GroupSong.objects.filter(song__in=keys).values_list("song_id", flat=True))
    return [
        {
            "id": song.pk,
            "title": song.title,
            "performer": song.performer,
            "file_name": song.file_name if song.owner_id == user.pk else "",
            "duration": song.duration,
            "tempo_bpm": song.tempo_bpm,
            "meter": song.meter,
            "feel": song.feel if song.tempo_bpm else "",
            "has_score": song.has_score,
            "bars": song.bar_count,
            "doubts": song.doubt_count,
            "difficulty": song.difficulty,
            "rhythms": song.rhythms,
            "role": ROLE_NAMES[Role.OWNER if song.owner_id == user.pk else shared[song.pk]],
            "owner": song.owner.get_username(),
            "is_shared": song.pk in seen,
            "tags": tags.get(song.pk, []),
            "practised_at": practised.get(song.pk),
            "next_step": _next_step(plans.get(song.pk)),
            "run": run_values(jobs[song.pk]) if song.pk in jobs else None,
        }
        for song in songs
    ]


def _next_step(plan: PracticePlan | None) -> str:
    if plan is None or not plan.steps:
        return ""
    return f"step {min(plan.at, len(plan.steps) - 1) + 1} of {len(plan.steps)}"
