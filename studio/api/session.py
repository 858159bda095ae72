"""Signing in and out."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect, ensure_csrf_cookie
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import AuthenticationFailed, NotFound
from rest_framework.exceptions import ValidationError as Invalid
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from orchesis.audio.decode import LIMITS_TEXT, SUFFIXES
from studio.api.serializers import CredentialsSerializer, SessionSerializer


def _session(request: Request) -> Response:
    name = request.user.get_username() if request.user.is_authenticated else None
    values = {
        "username": name,
        "demo_available": settings.DEMO,
        "limits": LIMITS_TEXT,
        "suffixes": list(SUFFIXES),
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
    throttle_classes = [ScopedRateThrottle]
    throttle_scope = "sign-in"


class SignInView(_Entrance):
    """Sign in by name and password."""

    @extend_schema(request=CredentialsSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        """Sign in."""
        data = CredentialsSerializer(data=request.data)
        data.is_valid(raise_exception=True)
        user = authenticate(request, **data.validated_data)
        if user is None:
            raise AuthenticationFailed("Name or password is not right.")
        login(request, user)
        return _session(request)


class SignUpView(_Entrance):
    """Make an account."""

    @extend_schema(request=CredentialsSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        """Make an account and sign in."""
        data = CredentialsSerializer(data=request.data)
        data.is_valid(raise_exception=True)
        name, password = data.validated_data["username"], data.validated_data["password"]
        try:
            User.username_validator(name)
            validate_password(password, User(username=name))
        except ValidationError as error:
            raise Invalid(error.messages) from error
        try:
            with transaction.atomic():
                user = User.objects.create_user(name, password=password)
        except IntegrityError as error:
            raise Invalid(["That name is taken."]) from error
        login(request, user)
        return _session(request)


class DemoView(_Entrance):
    """One click into the demo account, where the server was started with the demo."""

    @extend_schema(request=None, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        """Enter the demo account."""
        user = User.objects.filter(username=settings.DEMO_USERNAME).first()
        if not settings.DEMO or user is None:
            raise NotFound("This server was not started with the demo.")
        login(request, user)
        return _session(request)
