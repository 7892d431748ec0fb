"""The race: the same animals to each player, egg by egg, and who lost least; luck told apart."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

import numpy as np
from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot_core.exercises.pictures import STRIP

from eyot.collection.models import Collection
from eyot.practice.making import new_animal
from eyot.practice.models import Exercise, Race
from eyot.shared.refusal import Refused

EGGS = 7


@dataclass(frozen=True)
class Standing:
    """One player: what was lost so far, what luck added, and over how many eggs."""

    player: str
    eggs: int
    lost: float
    luck: float
    points: int


def begin(collection: Collection, member: AbstractBaseUser, first: str, second: str, at: datetime) -> Race:
    """A race of two; those who are members play on devices of their own. :class:`Refused` without two names."""
    players = [" ".join(one.split())[:30] for one in (first, second)]
    if not all(players) or players[0].lower() == players[1].lower():
        raise Refused("Two who play need two names. Nothing was begun.", field="second")
    with transaction.atomic():
        race = Race.objects.create(collection=collection, made_by_id=member.pk, players=players, made_at=at)
        put_next(race, at)
    return race


def put_next(race: Race, at: datetime) -> None:
    """The next animal, to every player. :class:`Refused` while somebody has not answered, or after the last egg."""
    rows = list(Exercise.objects.select_for_update().filter(race=race))
    if any(row.said is None for row in rows):
        raise Refused("Not everybody has named this one yet. Nothing was changed.")
    if len({row.animal_id for row in rows}) >= EGGS:
        raise Refused("All eggs of this race are named. Begin another.")
    animal = new_animal(race.collection, race.made_by, at)
    users = {user.username: user.pk for user in get_user_model().objects.filter(username__in=race.players)}
    members = set(race.collection.memberships.values_list("user", flat=True))
    for player in race.players:
        own = users.get(player)
        Exercise.objects.create(
            collection=race.collection,
            member_id=own if own in members else race.made_by_id,
            player=player,
            kind=Exercise.Kind.NAME,
            animal=animal,
            picture=STRIP,
            race=race,
            asked_at=at,
        )


def standings(race: Race) -> list[Standing]:
    """How the players stand, over the eggs that all have named; who lost least stands first."""
    rows = list(race.exercises.all())
    done = {row.animal_id for row in rows} - {row.animal_id for row in rows if row.said is None}
    found = []
    for player in race.players:
        own = [row for row in rows if row.player == player and row.animal_id in done and row.said]
        points = [row.answer["points"] for row in own]
        found.append(
            Standing(
                player,
                len(own),
                sum(row.lost or 0.0 for row in own),
                sum(row.luck or 0.0 for row in own),
                round(float(np.mean(points))) if points else 0,
            )
        )
    return sorted(found, key=lambda one: one.lost)
