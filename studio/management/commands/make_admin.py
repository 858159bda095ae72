"""`manage.py make_admin NAME`: let somebody administer this server."""

from __future__ import annotations

import getpass
import os
from argparse import ArgumentParser
from typing import Any

from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError

from studio.actions.accounts import make_account


class Command(BaseCommand):
    """The first administrator, or another one."""

    help = "Let somebody administer this server."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Who."""
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        """Run. The password is asked for, or taken from ORCHESIS_ADMIN_PASSWORD."""
        name = options["name"]
        user = User.objects.filter(username=name).first()
        if user is None:
            given = os.environ.get("ORCHESIS_ADMIN_PASSWORD")
            try:
                user = make_account(name, given or getpass.getpass("Password for the account: "))
            except ValidationError as error:
                raise CommandError(" ".join(error.messages)) from error
        user.is_staff = user.is_superuser = True
        user.save(update_fields=["is_staff", "is_superuser"])
        self.stdout.write(f"{name} administers this server: sign in, then open /office/")
