"""Changes of the line-up. Any member of the collection may make them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from uuid import uuid4

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot.bench.actions import Answer, record_look
from eyot.season.models import Egg


@transaction.atomic
def note_for_all(eggs: Sequence[Egg], user: AbstractBaseUser, trait: str, level: str, stage: str, at: datetime) -> None:
    """Answers one look alike for several hatchlings, each at ``stage`` or else at its own: for all, or (Refused) for none."""
    for egg in eggs:
        record_look(egg, user, Answer(trait, level, stage or egg.stage, "sure", uuid4()), at)
