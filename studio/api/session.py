"""Signing in and out."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.contrib.auth.models import User
from django.core import signing
from django.core.exceptions import ValidationError
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect, ensure_csrf_cookie
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import AuthenticationFailed, NotFound, PermissionDenied, Throttled
from rest_framework.exceptions import ValidationError as Invalid
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from studio.actions.accounts import make_account, remember_session, send_email_confirmation
from studio.actions.groups import is_invited
from studio.actions.visits import VISIT, begin_visit, visitor_of
from studio.api.serializers import CredentialsSerializer, SessionSerializer, SignUpSerializer
from studio.models import Account
from studio.passwords import TooManyGuesses, count_guess, count_sign_up, remember_device

VISIT_COOKIE = "orchesis_visit"
"""By which a browser goes on with its visit of the demo."""


def _session(request: Request) -> Response:
    name = request.user.get_username() if request.user.is_authenticated else None
    is_demo = bool(name) and Account.objects.filter(user__username=name, is_demo=True).exists()
    values = {
        "username": name,
        "is_demo": is_demo,
        "demo_available": settings.DEMO,
        "registration": settings.REGISTRATION,
    }
    return Response(SessionSerializer(values).data)


@method_decorator(ensure_csrf_cookie, name="dispatch")
class SessionView(APIView):
    """Who is signed in; signing out."""

    permission_classes = [AllowAny]

    @extend_schema(responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        """Say who asks."""
        return _session(request)

    @extend_schema(responses={200: SessionSerializer})
    def delete(self, request: Request) -> Response:
        """Sign out."""
        logout(request)
        return _session(request)


@method_decorator(csrf_protect, name="dispatch")
class _Entrance(APIView):
    """A door for people who are not signed in yet: the forgery check must be asked for."""

    permission_classes = [AllowAny]


def too_many(error: TooManyGuesses) -> Throttled:
    """What to say to whoever tries too often."""
    minutes = max(1, round(error.seconds / 60))
    wait = f"{minutes} minutes" if minutes > 1 else "a minute"
    return Throttled(detail=f"Too many tries. Wait {wait}, then try again.")


def _enter(request: Request, user: User) -> Response:
    """Sign in, and know this browser from now on."""
    login(request, user)
    agent = str(request.META.get("HTTP_USER_AGENT", ""))
    remember_session(user, request.session.session_key or "", agent)
    response = _session(request)
    remember_device(response, user.get_username())
    return response


class SignInView(_Entrance):
    """Sign in by name and password."""

    @extend_schema(request=CredentialsSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        """Sign in."""
        data = CredentialsSerializer(data=request.data)
        data.is_valid(raise_exception=True)
        try:
            count_guess(request._request, data.validated_data["username"])
        except TooManyGuesses as error:
            raise too_many(error) from error
        user = authenticate(request, **data.validated_data)
        if not isinstance(user, User):
            raise AuthenticationFailed("Name or password is not right.")
        return _enter(request, user)


class SignUpView(_Entrance):
    """Make an account."""

    @extend_schema(request=SignUpSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        """Make an account and sign in, where this server lets one."""
        data = SignUpSerializer(data=request.data)
        data.is_valid(raise_exception=True)
        wish = data.validated_data
        try:
            count_sign_up(request._request)
        except TooManyGuesses as error:
            raise too_many(error) from error
        if settings.REGISTRATION == "closed":
            raise PermissionDenied("Accounts are made by whoever runs this server: ask there.")
        if settings.REGISTRATION == "invitation" and not is_invited(wish["invitation"]):
            raise PermissionDenied(
                "One joins by invitation here: open the link that you were sent."
            )
        try:
            user = make_account(wish["username"], wish["password"])
        except ValidationError as error:
            raise Invalid(error.messages) from error
        if wish["email"]:
            send_email_confirmation(
                user, wish["email"], request.build_absolute_uri("/").rstrip("/")
            )
        return _enter(request, user)


class DemoView(_Entrance):
    """One click into the demo songs, where the server was started with the demo."""

    @extend_schema(request=None, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        """Begin a visit, with demo songs of one's own for a day, or go on with it."""
        if not settings.DEMO:
            raise NotFound("This server was not started with the demo.")
        user = _visitor(request)
        if user is None:
            try:
                count_sign_up(request._request)
            except TooManyGuesses as error:
                raise too_many(error) from error
            user = begin_visit()
        if user is None:
            raise NotFound("This server was not started with the demo.")
        response = _enter(request, user)
        response.set_cookie(
            VISIT_COOKIE,
            signing.dumps(user.pk, salt=VISIT_COOKIE),
            max_age=round(VISIT.total_seconds()),
            httponly=True,
            samesite="Strict",
            secure=settings.SESSION_COOKIE_SECURE,
        )
        return response


def _visitor(request: Request) -> User | None:
    """Who goes on with a visit in this browser."""
    try:
        number = signing.loads(
            request.COOKIES.get(VISIT_COOKIE, ""),
            salt=VISIT_COOKIE,
            max_age=VISIT,
        )
    except signing.BadSignature:
        return None
    return visitor_of(int(number))
