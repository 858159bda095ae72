"""One's own account: password, address, sessions, export, deletion; a password set anew by mail."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth import logout, update_session_auth_hash
from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.http.response import HttpResponseBase
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.exceptions import NotFound
from rest_framework.exceptions import ValidationError as Invalid
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from studio.actions import accounts as act
from studio.actions.quotas import used_by
from studio.api.access import own_user
from studio.api.downloads import MAYBE_LATER, being_made, saved_as
from studio.api.ranges import stored_file
from studio.api.session import too_many
from studio.api.validation import validated_body
from studio.mails import kept_mails
from studio.models import Account
from studio.passwords import TooManyGuesses, client_address, count_guess

LONGEST = 200
LOOPBACK = ("127.0.0.1", "::1")


class OpenSessionSerializer(serializers.Serializer[Any]):
    """A browser in which one is signed in."""

    id = serializers.IntegerField()
    browser = serializers.CharField()
    created_at = serializers.DateTimeField()
    is_this = serializers.BooleanField()


class UsedSerializer(serializers.Serializer[Any]):
    """What one has taken of this machine; 0 of the most: there is no limit."""

    songs = serializers.IntegerField()
    most_songs = serializers.IntegerField()
    megabytes = serializers.FloatField()
    most_megabytes = serializers.IntegerField()
    minutes = serializers.FloatField(help_text="listened to within a day")
    most_minutes = serializers.IntegerField()
    keep_days = serializers.IntegerField(help_text="of a recording after the last change")


class AccountSerializer(serializers.Serializer[Any]):
    """One's own account."""

    name = serializers.CharField()
    email = serializers.CharField()
    unproved_email = serializers.CharField(help_text="given, and its mail not opened yet")
    visit_ends_at = serializers.DateTimeField(
        allow_null=True, help_text="of a visitor of the demo: when all of it goes"
    )
    is_demo = serializers.BooleanField()
    sessions = OpenSessionSerializer(many=True)
    used = UsedSerializer()


class EmailSerializer(serializers.Serializer[Any]):
    """Where mails go; empty: nowhere."""

    email = serializers.EmailField(max_length=LONGEST, allow_blank=True)


class ConfirmEmailSerializer(serializers.Serializer[Any]):
    """What the link of a mail says."""

    token = serializers.CharField(max_length=600)


class ChangePasswordSerializer(serializers.Serializer[Any]):
    """The password one has, and the one one wants."""

    old = serializers.CharField(max_length=LONGEST, trim_whitespace=False)
    new = serializers.CharField(max_length=LONGEST, trim_whitespace=False)


class PasswordSerializer(serializers.Serializer[Any]):
    """The password one has."""

    password = serializers.CharField(max_length=LONGEST, trim_whitespace=False)


class ForgotSerializer(serializers.Serializer[Any]):
    """Who has forgotten his password: name, or address of mails."""

    name = serializers.CharField(max_length=LONGEST)


class ResetSerializer(serializers.Serializer[Any]):
    """What the link of a mail says, and the new password."""

    number = serializers.CharField(max_length=40)
    token = serializers.CharField(max_length=100)
    password = serializers.CharField(max_length=LONGEST, trim_whitespace=False)


class MailSerializer(serializers.Serializer[Any]):
    """A mail that was not sent but kept."""

    to = serializers.CharField()
    subject = serializers.CharField()
    text = serializers.CharField()


class AccountView(APIView):
    """One's own account."""

    @extend_schema(responses=AccountSerializer, operation_id="account")
    def get(self, request: Request) -> Response:
        """What it is, and where one is signed in."""
        return Response(account_values(request))

    @extend_schema(request=EmailSerializer, responses=AccountSerializer)
    def patch(self, request: Request) -> Response:
        """Say where mails go: it counts once the link in a mail to that address was opened."""
        user = own_user(request)
        _not_the_demo(request)
        email = validated_body(request, EmailSerializer)["email"]
        if not email:
            act.remove_email(user)
        elif email != user.email:
            try:
                count_guess(request._request, f"mail {user.get_username()}")
            except TooManyGuesses as error:
                raise too_many(error) from error
            act.send_email_confirmation(user, email, request.build_absolute_uri("/").rstrip("/"))
        user = User.objects.get(pk=user.pk)
        request._request.user = request.user = user
        return Response(account_values(request))


class RemoveView(APIView):
    """The end of an account."""

    @extend_schema(request=PasswordSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        """Remove it with everything; the password is asked for once more."""
        user = own_user(request)
        _not_the_demo(request)
        try:
            count_guess(request._request, user.get_username())
            act.delete_account(user, validated_body(request, PasswordSerializer)["password"])
        except TooManyGuesses as error:
            raise too_many(error) from error
        except ValidationError as error:
            raise Invalid(error.messages) from error
        logout(request)
        return Response(status=204)


class PasswordView(APIView):
    """One's password."""

    @extend_schema(request=ChangePasswordSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        """Set another; other browsers are signed out."""
        user = own_user(request)
        _not_the_demo(request)
        wish = validated_body(request, ChangePasswordSerializer)
        try:
            count_guess(request._request, user.get_username())
            act.change_password(user, wish["old"], wish["new"])
        except TooManyGuesses as error:
            raise too_many(error) from error
        except ValidationError as error:
            raise Invalid(error.messages) from error
        act.sign_out_everywhere(user, but=request.session.session_key)
        update_session_auth_hash(request._request, user)
        # The session goes on under another name.
        act.remember_session(user, request.session.session_key or "", _agent(request))
        return Response(status=204)


class SessionsView(APIView):
    """Where one is signed in."""

    @extend_schema(responses={200: AccountSerializer}, operation_id="account_sign_out_elsewhere")
    def delete(self, request: Request) -> Response:
        """Sign out everywhere but here."""
        _not_the_demo(request)
        act.sign_out_everywhere(own_user(request), but=request.session.session_key)
        return Response(account_values(request))


class ExportView(APIView):
    """All that is one's own."""

    @extend_schema(
        responses={200: OpenApiTypes.BINARY, **MAYBE_LATER}, operation_id="account_export"
    )
    def get(self, request: Request) -> HttpResponseBase:
        """As one ZIP file: songs as bundles, the log, the account. 202 while it is packed."""
        path = act.find_export(own_user(request))
        if path is None:
            return being_made()
        response = stored_file(request._request, path, "application/zip")
        saved_as(response, "orchesis", ".zip")
        return response


@method_decorator(csrf_protect, name="dispatch")
class ForgotView(APIView):
    """A password that was forgotten."""

    permission_classes = [AllowAny]

    @extend_schema(request=ForgotSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        """Send a mail, if there is somebody of that name: that is told to nobody."""
        name = validated_body(request, ForgotSerializer)["name"]
        try:
            count_guess(request._request, f"mail {name}")
        except TooManyGuesses as error:
            raise too_many(error) from error
        act.send_reset(name, request.build_absolute_uri("/").rstrip("/"))
        return Response(status=204)


@method_decorator(csrf_protect, name="dispatch")
class ConfirmEmailView(APIView):
    """The link of a mail that asks whether an address is somebody's."""

    permission_classes = [AllowAny]

    @extend_schema(request=ConfirmEmailSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        """From now on mails go there."""
        act.confirm_email(validated_body(request, ConfirmEmailSerializer)["token"])
        return Response(status=204)


@method_decorator(csrf_protect, name="dispatch")
class ResetView(APIView):
    """The link of that mail."""

    permission_classes = [AllowAny]

    @extend_schema(request=ResetSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        """Set the password anew, once."""
        wish = validated_body(request, ResetSerializer)
        try:
            act.reset_password(wish["number"], wish["token"], wish["password"])
        except ValidationError as error:
            raise Invalid(error.messages) from error
        return Response(status=204)


class MailsView(APIView):
    """Mails that this machine keeps instead of sending them."""

    permission_classes = [AllowAny]

    @extend_schema(responses=MailSerializer(many=True), operation_id="mails")
    def get(self, request: Request) -> Response:
        """The last ones; only on the machine itself, and only where none are sent."""
        # They open accounts: whoever is not at this machine has no business with them.
        if not settings.MAILS_ARE_SHOWN or client_address(request._request) not in LOOPBACK:
            raise NotFound("There is nothing at this address.")
        return Response(kept_mails())


def account_values(request: Request) -> dict[str, Any]:
    """One's own account."""
    user = own_user(request)
    account = Account.objects.filter(user=user).first()
    here = request.session.session_key
    return {
        "name": user.get_username(),
        "email": user.email,
        "unproved_email": account.unproved_email if account else "",
        "visit_ends_at": account.visit_ends_at if account else None,
        "is_demo": _is_demo(request),
        "sessions": [
            {
                "id": one.pk,
                "browser": one.browser,
                "created_at": one.created_at,
                "is_this": one.key == here,
            }
            for one in user.open_sessions.all()
        ],
        "used": _used_values(user),
    }


def _used_values(user: User) -> dict[str, Any]:
    used = used_by(user)
    return {
        "songs": used.songs,
        "most_songs": settings.MOST_SONGS,
        "megabytes": round(used.bytes / 1024**2, 1),
        "most_megabytes": settings.MOST_MEGABYTES,
        "minutes": round(used.minutes, 1),
        "most_minutes": settings.MOST_MINUTES_A_DAY,
        "keep_days": settings.KEEP_RECORDINGS_DAYS,
    }


def _is_demo(request: Request) -> bool:
    account = getattr(own_user(request), "account", None)
    return bool(account and account.is_demo)


def _not_the_demo(request: Request) -> None:
    if _is_demo(request):
        raise Invalid("This is a demo account. It has no password and cannot be changed.")


def _agent(request: Request) -> str:
    return str(request.META.get("HTTP_USER_AGENT", ""))
