"""Django's admin for the one who runs this server: people, songs and what the workers do.

It has no door of its own: one signs in at the front, where guesses are counted.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.contrib import admin
from django.contrib.admin import AdminSite
from django.contrib.auth.admin import UserAdmin
from django.contrib.auth.models import User
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from studio.models import Job, Song
from studio.people import Assignment, Edition, Group, Invitation, ShareLink


class Office(AdminSite):
    """The admin's pages."""

    site_header = "Orchesis: the office"
    site_title = "Orchesis"
    index_title = "People, songs, work"

    def login(
        self, request: HttpRequest, extra_context: dict[str, Any] | None = None
    ) -> HttpResponse:
        """To the front door; whoever is in already and is no administrator is told so."""
        if request.user.is_authenticated:
            raise PermissionDenied
        return redirect("/sign-in")


office = Office(name="office")


if TYPE_CHECKING:
    Rows = admin.ModelAdmin[Any]
else:
    Rows = admin.ModelAdmin


class Shown(Rows):
    """Rows that are looked at and removed here, and changed where they were made."""

    def has_add_permission(self, request: HttpRequest) -> bool:
        """Nothing is made here."""
        return False

    def has_change_permission(self, request: HttpRequest, obj: object = None) -> bool:
        """Nothing is changed here."""
        return False


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

    list_display = ("kind", "song", "state", "stage", "message", "attempts", "created_at")
    list_filter = ("state", "kind")


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


office.register(User, UserAdmin)
office.register(Song, SongRows)
office.register(Job, JobRows)
office.register(ShareLink, LinkRows)
office.register(Invitation, InvitationRows)
office.register(Group, GroupRows)
office.register(Assignment, GivenRows)
office.register(Edition, EditionRows)
