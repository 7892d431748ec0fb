"""Collections, members, animals, and the genes of animals with how each is known."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import models


def valid_chance(text: str) -> None:
    """A chance is a fraction such as 2/3, above 0 and at most 1."""
    try:
        value = Fraction(text)
    except (ValueError, ZeroDivisionError):
        raise ValidationError(f"“{text}” is not a fraction such as 2/3.") from None
    if not 0 < value <= 1:
        raise ValidationError(f"A chance is above 0 and at most 1, not {text}.")


class Collection(models.Model):
    """One keeper's animals. Every row of the application belongs to one."""

    name = models.CharField(max_length=80)
    members = models.ManyToManyField(settings.AUTH_USER_MODEL, through="Membership", related_name="collections")
    made_on = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """A user's place in a collection."""

    class Role(models.TextChoices):
        """What a member may do."""

        OWNER = "owner"
        MEMBER = "member"

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "collection"], name="one_membership_each")]


class Opinion(models.Model):
    """One thing in which a collection sees the catalogue otherwise; taken back, never deleted.

    ``value`` has the form of one opinion of :mod:`eyot_core.catalogue.overlay`.
    """

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="opinions")
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
    note = models.TextField(blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["collection", "name"], name="one_animal_of_a_name")]

    def __str__(self) -> str:
        return self.name


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

    def as_entry(self) -> dict[str, Any]:
        """The statement in the form of the core's JSON contract."""
        entry: dict[str, Any] = {"gene": self.gene, "copies": self.copies}
        if self.chance != "1":
            entry["chance"] = self.chance
        if self.on_chromosome:
            entry["on"] = self.on_chromosome
        return entry
