"""Mails that are kept in a folder instead of being sent, where no server is configured."""

from __future__ import annotations

import email
import email.policy
from pathlib import Path

from django.conf import settings

MOST_SHOWN = 20
ENDS = "-" * 79
"""What Django's backend writes after each mail of a file."""


def kept_mails() -> list[dict[str, str]]:
    """The last mails, newest first."""
    folder = Path(settings.EMAIL_FILE_PATH)
    if not folder.exists():
        return []
    files = sorted(folder.glob("*.log"), key=lambda path: path.stat().st_mtime, reverse=True)
    found = []
    for file in files[:MOST_SHOWN]:
        for text in file.read_text(errors="replace").split(ENDS):
            if text.strip():
                found.append(_told(text.strip()))
    return found[:MOST_SHOWN]


def _told(text: str) -> dict[str, str]:
    mail = email.message_from_string(text, policy=email.policy.default)
    body = mail.get_body(("plain",))
    return {
        "to": str(mail["To"] or ""),
        "subject": str(mail["Subject"] or ""),
        "text": body.get_content() if body else "",
    }
