"""Collections, members, animals, and the genes of animals with how each is known."""

from __future__ import annotations

from datetime import datetime
from fractions import Fraction
from itertools import count
from typing import Any
from zoneinfo import available_timezones

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import models
from django.utils.text import slugify

from eyot_core.parsing import FRACTION
from eyot_core.wording.statements import Statement

from eyot.shared.money import currencies
from eyot.shared.units import CELSIUS, DAY_FIRST, DAY_FORMS, GRADES


def valid_chance(text: str) -> None:
    """A chance is a fraction such as 2/3, above 0 and at most 1."""
    try:
        value = Fraction(text) if FRACTION.fullmatch(text) else None
    except ZeroDivisionError:
        value = None
    if value is None:
        raise ValidationError(f"“{text[:40]}” is not a fraction such as 2/3.")
    if not 0 < value <= 1:
        raise ValidationError(f"A chance is above 0 and at most 1, not {text}.")


def valid_zone(name: str) -> None:
    """A time zone has a name such as Europe/Paris."""
    if name not in available_timezones():
        raise ValidationError(f"“{name}” is no time zone; they are called such as Europe/Paris.")


def valid_currency(code: str) -> None:
    """A currency has a code of three letters such as EUR (ISO 4217)."""
    if code not in currencies():
        raise ValidationError(f"“{code}” is no currency; they are called such as EUR or JPY.")


class Opening(models.TextChoices):
    """Schools of opening eggs."""

    NEVER = "never", "never cut"
    AFTER_PIP = "after_pip", "cut once the first has pipped"
    BEFORE_DUE = "before_due", "cut all some days before the due date"


class Collection(models.Model):
    """One keeper's animals. Every row of the application belongs to one."""

    name = models.CharField(max_length=80)
    key = models.SlugField(
        max_length=60, unique=True, help_text="stands in all its addresses, and never changes, whatever it is called"
    )
    is_demo = models.BooleanField(default=False, help_text="all of it is made up, and its pages say so")
    time_zone = models.CharField(
        max_length=60,
        blank=True,
        validators=[valid_zone],
        help_text="whose midnight a day begins at; empty: the server's",
    )
    day_form = models.CharField(max_length=5, choices=DAY_FORMS, default=DAY_FIRST, help_text="how days are written")
    grade = models.CharField(max_length=1, choices=GRADES, default=CELSIUS, help_text="in what temperatures are told")
    dam_least_g = models.PositiveIntegerField(
        default=1500, help_text="below this a dam is not to be paired without a warning"
    )
    sire_least_g = models.PositiveIntegerField(
        default=450, help_text="below this a sire is not to be paired without a warning"
    )
    sure_percent = models.PositiveSmallIntegerField(default=97, help_text="from here on a call is proposed as sure")
    likely_percent = models.PositiveSmallIntegerField(default=80, help_text="from here on as likely")
    label_percent = models.PositiveSmallIntegerField(default=10, help_text="from here on a possible gene is on a label")
    not_percent = models.PositiveSmallIntegerField(default=3, help_text="up to here as not there")
    rounds_days = models.CharField(
        max_length=60, default="12", help_text="days between introductions; the last one goes on, as in 7 7 7 30"
    )
    opening = models.CharField(max_length=10, choices=Opening, default=Opening.AFTER_PIP)
    opening_days = models.PositiveSmallIntegerField(default=3, help_text="days before the due date, where all are cut")
    ready_meals = models.PositiveSmallIntegerField(default=5, help_text="meals taken before a hatchling may leave")
    ready_sheds = models.PositiveSmallIntegerField(default=2, help_text="sheds before it may leave")
    ready_grams = models.PositiveSmallIntegerField(default=100, help_text="its least weight before it may leave")
    currency = models.CharField(max_length=3, default="EUR", validators=[valid_currency])
    not_sold = models.JSONField(default=list, blank=True, help_text="genes that may not be sold where the keeper lives")
    markers_on = models.BooleanField(
        default=True, help_text="marks of hets count beside the trade's figures; off: nothing but genetics counts"
    )
    members = models.ManyToManyField(settings.AUTH_USER_MODEL, through="Membership", related_name="collections")
    made_on = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name

    def save(self, *args: Any, **more: Any) -> None:
        """A new collection gets a key that no other has."""
        if not self.key:
            self.key = _free_key(self.name)
        super().save(*args, **more)


def _free_key(name: str) -> str:
    """A key after the name; with a number where another collection has it."""
    plain = slugify(name)[:50] or "collection"
    taken = set(Collection.objects.filter(key__startswith=plain).values_list("key", flat=True))
    numbered = (f"{plain}-{number}" for number in count(2))
    return plain if plain not in taken else next(key for key in numbered if key not in taken)


class Role(models.TextChoices):
    """What a member may do, the least first; what each may is in :mod:`eyot.collection.rights`."""

    READER = "reader", "reader"
    HELPER = "helper", "helper"
    KEEPER = "keeper", "keeper"
    OWNER = "owner", "owner"

    @property
    def rank(self) -> int:
        """Who stands higher may all that one below may."""
        return list(Role).index(self)


class Membership(models.Model):
    """A user's place in a collection. It goes when the user leaves; what was done here keeps the name."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role)
    since = models.DateTimeField(auto_now_add=True)
    blind_first = models.BooleanField(default=False, help_text="sees no chance before a first guess of his own")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "collection"], name="one_membership_each")]
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.user} ({self.collection}, {self.role})"

    @property
    def as_role(self) -> Role:
        """The role with its rank."""
        return Role(self.role)


class MemberInvitation(models.Model):
    """A link by which one person becomes a member, once, until it ends."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="member_invitations")
    token = models.CharField(max_length=40, unique=True)
    role = models.CharField(max_length=10, choices=Role)
    name = models.CharField(max_length=40, help_text="for whom it is")
    invited_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField()
    expires_at = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True, blank=True)
    used_at = models.DateTimeField(null=True, blank=True)
    used_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="+"
    )

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.collection}, {self.role}, for {self.name}"

    def trouble(self, at: datetime) -> str:
        """Why it can't be used now; empty where it can."""
        if self.used_at:
            return "has been used; each is for one person, once"
        if self.withdrawn_at:
            return "was withdrawn"
        if Removal.objects.filter(collection=self.collection_id).exists():
            return "leads to a collection that is to be removed"
        return "has ended" if at >= self.expires_at else ""


class Removal(models.Model):
    """A collection or an account that is to go, with time to think it over; who asked takes it back until the day it is due."""

    collection = models.OneToOneField(Collection, on_delete=models.CASCADE, null=True, related_name="removal")
    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="removal")
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    asked_at = models.DateTimeField()
    due_at = models.DateTimeField()

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(collection=None) ^ models.Q(user=None), name="removal_of_one_thing"
            )
        ]

    def __str__(self) -> str:
        return f"{self.collection or self.user}, {self.due_at:%Y-%m-%d}"


class CatalogueOverride(models.Model):
    """One thing in which a collection sees the catalogue otherwise; taken back, never deleted.

    ``value`` has the form of one opinion of :mod:`eyot_core.catalogue.overlay`.
    """

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="overrides")
    value = models.JSONField()
    held_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    held_at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.value.get('kind')} ({self.collection})"


class Sex(models.TextChoices):
    """As far as known."""

    FEMALE = "female"
    MALE = "male"
    UNKNOWN = ""


class Animal(models.Model):
    """A snake that is kept, or was a parent."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="animals")
    name = models.CharField(max_length=60)
    code = models.CharField(max_length=30, blank=True)
    sex = models.CharField(max_length=6, choices=Sex, blank=True)
    hatched_on = models.DateField(null=True, blank=True)
    dam = models.ForeignKey("self", on_delete=models.PROTECT, null=True, blank=True, related_name="young_as_dam")
    sire = models.ForeignKey("self", on_delete=models.PROTECT, null=True, blank=True, related_name="young_as_sire")
    archived_on = models.DateField(null=True, blank=True, help_text="sold, dead or away; stays in the record")
    elsewhere = models.BooleanField(
        default=False, help_text="a parent that is not the keeper's own: in the record, not in lists and plans"
    )
    note = models.TextField(blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["collection", "name"], name="one_animal_of_a_name")]

    def __str__(self) -> str:
        return self.name

    @property
    def is_here(self) -> bool:
        """Neither archived nor living elsewhere?"""
        return self.archived_on is None and not self.elsewhere


class CarriedGene(models.Model):
    """One statement on one gene of an animal, with how it is known."""

    class Known(models.TextChoices):
        """How a gene of an animal is known."""

        SEEN = "seen"
        BRED = "bred"
        TESTED = "tested"
        DECLARED = "declared"
        POSSIBLE = "possible"

    animal = models.ForeignKey(Animal, on_delete=models.CASCADE, related_name="genes")
    gene = models.CharField(max_length=40)
    copies = models.PositiveSmallIntegerField(choices=[(1, "one"), (2, "two")], default=1)
    known = models.CharField(max_length=10, choices=Known)
    chance = models.CharField(
        max_length=12, default="1", validators=[valid_chance], help_text="that the copies are there"
    )
    two_chance = models.CharField(
        max_length=12,
        blank=True,
        validators=[valid_chance],
        help_text="where it has one copy: the chance of a second; empty where that is not in doubt",
    )
    on_chromosome = models.CharField(
        max_length=1, blank=True, choices=[("X", "X: female maker"), ("Y", "Y: male maker")]
    )

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["animal", "gene"], name="one_statement_a_gene"),
            models.CheckConstraint(condition=models.Q(copies__in=[1, 2]), name="one_or_two_copies"),
        ]

    def __str__(self) -> str:
        return f"{self.gene} ×{self.copies} ({self.known})"

    STATED = ("copies", "known", "chance", "two_chance", "on_chromosome")

    @classmethod
    def stating(cls, animal: Animal, one: Statement) -> CarriedGene:
        """A statement of a line as a row, not saved."""
        return cls(
            animal=animal,
            gene=one.gene,
            copies=one.copies,
            known=one.known,
            chance=one.chance,
            two_chance=one.two_chance,
            on_chromosome=one.on,
        )

    def as_statement(self) -> Statement:
        """The statement as a line of genes has it."""
        return Statement(self.gene, self.copies, self.known, self.chance, self.two_chance, self.on_chromosome)

    def as_entry(self) -> dict[str, Any]:
        """The statement in the form of the core's JSON contract."""
        entry: dict[str, Any] = {"gene": self.gene, "copies": self.copies}
        if self.two_chance:
            entry["copies"] = {"1": str(1 - Fraction(self.two_chance)), "2": self.two_chance}
        if self.chance != "1":
            entry["chance"] = self.chance
        if self.on_chromosome:
            entry["on"] = self.on_chromosome
        return entry


class BackupRun(models.Model):
    """One night's backup of the whole server: its size in bytes, or what kept it from being made."""

    at = models.DateTimeField()
    size = models.BigIntegerField(default=0)
    trouble = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.at:%Y-%m-%d}: {self.trouble or self.size}"


class Change(models.Model):
    """One change of the record: who, when, what in words, and the rows before and after, so that it can be taken back."""

    OF_MEMBERS = "members"

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="changes")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    what = models.CharField(max_length=200)
    subject = models.CharField(max_length=40, help_text="what it is about: animal:12 or clutch:7")
    rows = models.JSONField()
    key = models.UUIDField(null=True, blank=True, unique=True, help_text="given by the device: sent twice, counts once")
    takes_back = models.OneToOneField(
        "self", on_delete=models.CASCADE, null=True, blank=True, related_name="taken_back"
    )

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["collection", "subject", "-id"], name="change_by_subject")]

    def __str__(self) -> str:
        return self.what

    @property
    def can_be_taken_back(self) -> bool:
        """Can it, by its kind? Who belongs to a collection is changed on its own page only."""
        return self.subject != self.OF_MEMBERS
