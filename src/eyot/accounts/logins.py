"""Where somebody is logged in, in words."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime

from allauth.usersessions.models import UserSession
from django.contrib.auth.models import AbstractBaseUser

BROWSERS = (("Edg", "Edge"), ("Firefox", "Firefox"), ("Chrom", "Chrome"), ("Safari", "Safari"))
SYSTEMS = (
    ("Android", "Android"),
    ("iPhone|iPad", "iOS"),
    ("Windows", "Windows"),
    ("Mac OS", "macOS"),
    ("Linux", "Linux"),
)


@dataclass(frozen=True)
class LoginRow:
    """One login: what with, from where, since when, and whether it is the one that asks."""

    number: int
    words: str
    address: str
    since: datetime
    is_this: bool


def logins_of(user: AbstractBaseUser, session_key: str | None) -> list[LoginRow]:
    """All logins that have not ended, the newest first."""
    rows = UserSession.objects.purge_and_list(user)
    return [
        LoginRow(row.pk, device(row.user_agent), row.ip, row.created_at, row.session_key == session_key)
        for row in sorted(rows, key=lambda row: row.created_at, reverse=True)
    ]


def device(agent: str) -> str:
    """What a browser says of itself, in two words.

    >>> device("Mozilla/5.0 (Android 16; Mobile; rv:140.0) Gecko/140.0 Firefox/140.0")
    'Firefox on Android'
    """
    browser = next((name for sign, name in BROWSERS if re.search(sign, agent)), "")
    system = next((name for sign, name in SYSTEMS if re.search(sign, agent)), "")
    return " on ".join(filter(None, (browser, system))) or "a browser that does not say what it is"
