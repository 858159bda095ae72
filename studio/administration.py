"""Django's admin for the one who runs this server: people, songs and what the workers do.

It has no door of its own: one signs in at the front, where guesses are counted.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.contrib import admin
from django.contrib.admin import AdminSite
from django.contrib.auth.admin import UserAdmin
from django.contrib.auth.forms import AdminUserCreationForm
from django.contrib.auth.models import User
from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.template.response import TemplateResponse
from django.utils import timezone

from studio import counters, storage
from studio.actions.accounts import check_free
from studio.models import OPEN_STATES, Account, Job, JobKind, RunState, Song
from studio.names import skeleton
from studio.people import Assignment, Edition, Group, Invitation, ShareLink
from studio.queueing import queue_job


class Office(AdminSite):
    """The admin's pages."""

    site_header = "Orchesis: the office"
    site_title = "Orchesis"
    index_title = "People, songs, work"
    index_template = "office/index.html"

    def index(
        self, request: HttpRequest, extra_context: dict[str, Any] | None = None
    ) -> TemplateResponse:
        """What runs, what failed and why, what there is room for; below it the lists."""
        return super().index(request, {**(extra_context or {}), "now": now_values()})

    def login(
        self, request: HttpRequest, extra_context: dict[str, Any] | None = None
    ) -> HttpResponse:
        """To the front door; whoever is in already and is no administrator is told so."""
        if request.user.is_authenticated:
            raise PermissionDenied
        return redirect("/sign-in")


office = Office(name="office")


FAILED_SHOWN = 20


def now_values() -> dict[str, Any]:
    """How things stand, for the office's first page."""
    jobs = Job.objects.select_related("song", "song__owner")
    running = jobs.filter(state=RunState.RUNNING)
    ended_badly = jobs.filter(state__in=(RunState.FAILED, RunState.INTERRUPTED))
    return {
        "running": list(running.order_by("started_at")),
        "waiting": Job.objects.filter(state=RunState.QUEUED).count(),
        "failed": list(ended_badly[:FAILED_SHOWN]),
        "queue": counters.answers(),
        "room_gb": storage.room() / 1024**3,
        "songs": Song.objects.count(),
        "people": User.objects.count(),
    }


if TYPE_CHECKING:
    Rows = admin.ModelAdmin[Any]
    NewUser = AdminUserCreationForm[User]
    UserRows = UserAdmin[User]
else:
    Rows, NewUser, UserRows = admin.ModelAdmin, AdminUserCreationForm, UserAdmin


class Shown(Rows):
    """Rows that are looked at and removed here, and changed where they were made."""

    def has_add_permission(self, request: HttpRequest) -> bool:
        """Nothing is made here."""
        return False

    def has_change_permission(self, request: HttpRequest, obj: object = None) -> bool:
        """Nothing is changed here."""
        return False


class NewPerson(NewUser):
    """Who is let in here is called as nobody else looks, like those who come by the front door."""

    def clean_username(self) -> str:
        """The name. Raises ValidationError."""
        name = str(super().clean_username())
        check_free(name)
        return name


class PersonRows(UserRows):
    """People. Their names stay: others know them by these."""

    add_form = NewPerson

    def get_readonly_fields(self, request: HttpRequest, obj: User | None = None) -> tuple[str, ...]:
        """The name of who is there already."""
        return (*super().get_readonly_fields(request, obj), *(("username",) if obj else ()))

    def save_model(self, request: HttpRequest, obj: User, form: Any, change: bool) -> None:
        """Keep it, with what an account is beside its name."""
        with transaction.atomic():
            super().save_model(request, obj, form, change)
            if not change:
                Account.objects.create(user=obj, skeleton=skeleton(obj.get_username()))


class SongRows(Shown):
    """Songs, without what they say."""

    list_display = ("title", "owner", "duration", "revision", "created_at")
    search_fields = ("title", "owner__username")
    fields = ("title", "performer", "owner", "file_name", "duration", "revision", "created_at")

    def has_delete_permission(self, request: HttpRequest, obj: object = None) -> bool:
        """Its owner removes it: files and editions go with it then."""
        return False


class JobRows(Shown):
    """What the workers do, and why something failed."""

    list_display = ("kind", "title", "whose", "state", "said", "asked", "in_the_logs")
    list_filter = ("state", "kind")
    list_select_related = ("song", "song__owner")
    search_fields = ("song__title", "trace")
    actions = ("try_again",)

    @admin.display(description="song", ordering="song__title")
    def title(self, job: Job) -> str:
        """What it is done for."""
        return job.song.title

    @admin.display(description="whose", ordering="song__owner__username")
    def whose(self, job: Job) -> str:
        """For whom."""
        return job.song.owner.get_username()

    @admin.display(description="stage, or why it ended so")
    def said(self, job: Job) -> str:
        """What is known of it."""
        return job.message or job.stage

    @admin.display(description="asked for", ordering="created_at")
    def asked(self, job: Job) -> str:
        """When, shortly."""
        return timezone.localtime(job.created_at).strftime("%d %b %H:%M")

    @admin.display(description="in the logs")
    def in_the_logs(self, job: Job) -> str:
        """The beginning of its request's name: enough to find its lines by."""
        return job.trace[:8]

    @admin.action(description="Try again what failed", permissions=["view"])
    def try_again(self, request: HttpRequest, chosen: QuerySet[Job]) -> None:
        """Queue anew what ended without a result, where nothing of the kind is under way."""
        begun = 0
        for job in chosen.filter(state__in=(RunState.FAILED, RunState.INTERRUPTED)):
            with transaction.atomic():
                Song.objects.select_for_update().only("pk").get(pk=job.song_id)
                alike = Job.objects.filter(song=job.song_id, kind=job.kind, source=job.source_id)
                if not alike.filter(state__in=OPEN_STATES).exists():
                    queue_job(job.song, JobKind(job.kind), source=job.source, options=job.options)
                    begun += 1
        self.message_user(request, f"{begun} of {chosen.count()} are tried again.")


class LinkRows(Shown):
    """Links that are out; the secret is not shown."""

    list_display = ("words", "song", "group", "opened", "expires_at", "revoked_at")
    exclude = ("token",)


class InvitationRows(Shown):
    """Invitations; the secret is not shown."""

    list_display = ("group", "seats", "taken", "expires_at", "revoked_at")
    exclude = ("token",)


class GroupRows(Shown):
    """Bands and classes."""

    list_display = ("name", "kind", "owner", "created_at")


class GivenRows(Shown):
    """What was given to practise."""

    list_display = ("group", "student", "song", "name", "bpm", "due", "withdrawn_at")


class EditionRows(Shown):
    """Editions."""

    list_display = ("song", "number", "words", "created_at")


office.register(User, PersonRows)
office.register(Song, SongRows)
office.register(Job, JobRows)
office.register(ShareLink, LinkRows)
office.register(Invitation, InvitationRows)
office.register(Group, GroupRows)
office.register(Assignment, GivenRows)
office.register(Edition, EditionRows)
