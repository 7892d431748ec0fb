"""Changes of collections and their members."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any
from zoneinfo import available_timezones

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from eyot_core.catalogue.overlay import with_override
from eyot_core.errors import InputError
from eyot_core.hatchery.rounds import rhythm_from
from eyot_core.parsing import Node

from eyot.collection.catalogue import catalogue_of
from eyot.collection.history import recording
from eyot.collection.models import CatalogueOverride, Collection, Membership, Opening, Role
from eyot.shared.money import currencies
from eyot.shared.refusal import Refused
from eyot.shared.units import CELSIUS, DAY_FIRST, DAY_FORMS, GRADES

MOST_OPENING_DAYS = 10


class Unfit(Exception):
    """An opinion that can't be laid over the catalogue; ``args[0]`` says what is wrong, and where."""


@transaction.atomic
def found_collection(owner: str, password: str, name: str) -> tuple[Collection, AbstractBaseUser]:
    """Makes an account and a collection that it owns. Only for set-up: asks nobody's leave."""
    users: Any = get_user_model().objects
    keeper = users.create_user(owner, password=password)
    collection = Collection.objects.create(name=name)
    Membership.objects.create(user=keeper, collection=collection, role=Role.OWNER)
    return collection, keeper


@dataclass(frozen=True)
class Practices:
    """How a collection does it. ``rounds_days``: days between introductions, the last going on; weights in grams."""

    rounds_days: str
    opening: str
    opening_days: int
    dam_least_g: int
    sire_least_g: int
    sure_percent: int = 97
    likely_percent: int = 80
    not_percent: int = 3
    label_percent: int = 10
    time_zone: str = ""
    day_form: str = DAY_FIRST
    grade: str = CELSIUS


def refuse_unknown(time_zone: str, day_form: str, grade: str, stands: str) -> None:
    """:class:`~eyot.shared.refusal.Refused` for a time zone that is none, and for no way to write days or temperatures."""
    if time_zone and time_zone not in available_timezones():
        raise Refused(f"“{time_zone}” is no time zone. {stands}", field="time_zone")
    if day_form not in dict(DAY_FORMS):
        raise Refused(f"Choose how days are written. {stands}", field="day_form")
    if grade not in dict(GRADES):
        raise Refused(f"Choose in what temperatures are told. {stands}", field="grade")


def change_practices(collection: Collection, member: AbstractBaseUser, practices: Practices, at: datetime) -> None:
    """Sets how the collection does it. Any member may. :class:`~eyot.shared.refusal.Refused` for what is no school or threshold."""
    try:
        rhythm_from(practices.rounds_days)
    except ValueError as error:
        raise Refused(f"Rounds: {error}. Nothing was changed.", field="rounds_days") from None
    if practices.opening not in Opening.values:
        raise Refused("Opening eggs: choose one of the schools. Nothing was changed.", field="opening")
    if practices.opening_days > MOST_OPENING_DAYS:
        raise Refused(
            f"Eggs cut more than {MOST_OPENING_DAYS} days before the due date are not ready. Nothing was changed.",
            field="opening_days",
        )
    if not 0 < practices.not_percent < practices.likely_percent < practices.sure_percent < 100:
        raise Refused("Thresholds rise from “not” over “likely” to “sure”, between 0 and 100 %. Nothing was changed.")
    if not 0 < practices.label_percent <= 100:
        raise Refused(
            "A possible gene is put on a label from 1 to 100 % on. Nothing was changed.", field="label_percent"
        )
    refuse_unknown(practices.time_zone, practices.day_form, practices.grade, "Nothing was changed.")
    with recording(collection, member, at, "schools and thresholds changed", "collection") as record:
        record.change(collection, **asdict(practices))


@dataclass(frozen=True)
class SellingRules:
    """When a hatchling may leave, in what is paid, and which genes may not be sold where the keeper lives."""

    ready_meals: int
    ready_sheds: int
    ready_grams: int
    currency: str
    not_sold: list[str]


def change_rules(collection: Collection, member: AbstractBaseUser, rules: SellingRules, at: datetime) -> None:
    """Sets these rules. :class:`~eyot.shared.refusal.Refused` for what is no currency."""
    if rules.currency not in currencies():
        raise Refused(f"“{rules.currency}” is no currency. Nothing was changed.", field="currency")
    with recording(collection, member, at, "rules of keeping and selling changed", "collection") as record:
        record.change(collection, **asdict(rules))


def add_override(collection: Collection, member: AbstractBaseUser, value: dict[str, Any]) -> CatalogueOverride:
    """Adds an opinion to the collection's layer, checked against the catalogue as it stands. :class:`Unfit` if it can't be."""
    try:
        with_override(catalogue_of(collection), Node(value))
    except InputError as error:
        raise Unfit(f"{error.message} ({error.at})" if error.at else error.message) from None
    collection.__dict__.pop("_overlaid", None)
    return CatalogueOverride.objects.create(collection=collection, value=value, held_by_id=member.pk)


def withdraw_override(override: CatalogueOverride) -> None:
    """Takes an opinion back; it stays in the record."""
    override.withdrawn_at = timezone.now()
    override.save(update_fields=["withdrawn_at"])
    override.collection.__dict__.pop("_overlaid", None)
