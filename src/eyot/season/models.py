"""Clutches, their sires, eggs, and matings."""

from __future__ import annotations

from django.db import models

from eyot_core.catalogue import STAGES

from eyot.collection.models import Animal, Collection, Sex


class Stage(models.TextChoices):
    """When in its life a hatchling is looked at, in order."""

    EGG = "egg", "in the egg"
    WET = "wet", "out, wet"
    BLUE = "blue", "in the blue"
    SHED = "shed", "after the first shed"
    MONTHS = "months", "months old"
    ADULT = "adult", "adult"


assert tuple(Stage.values) == STAGES


class Clutch(models.Model):
    """The eggs of one laying, or a pairing that has not laid yet (``laid_on`` empty)."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="clutches")
    code = models.SlugField(max_length=20)
    dam = models.ForeignKey(Animal, on_delete=models.PROTECT, related_name="clutches_laid")
    sires = models.ManyToManyField(Animal, through="ClutchSire", related_name="clutches_sired")
    laid_on = models.DateField(null=True, blank=True)
    cut_on = models.DateField(null=True, blank=True)
    out_on = models.DateField(null=True, blank=True)
    shed_on = models.DateField(null=True, blank=True)
    closed_on = models.DateField(null=True, blank=True)
    place = models.CharField(max_length=80, blank=True)
    note = models.TextField(blank=True)

    class Meta:
        ordering = ["code"]
        constraints = [models.UniqueConstraint(fields=["collection", "code"], name="one_clutch_of_a_code")]

    def __str__(self) -> str:
        return self.code


class ClutchSire(models.Model):
    """A sire that may have fathered eggs of the clutch; ``weight``: how likely, relative to the others."""

    clutch = models.ForeignKey(Clutch, on_delete=models.CASCADE, related_name="clutch_sires")
    sire = models.ForeignKey(Animal, on_delete=models.PROTECT, related_name="+")
    weight = models.FloatField(default=1)

    class Meta:
        ordering = ["pk"]


class Mating(models.Model):
    """A lock that was seen."""

    clutch = models.ForeignKey(Clutch, on_delete=models.CASCADE, related_name="matings")
    sire = models.ForeignKey(Animal, on_delete=models.PROTECT, related_name="+")
    on = models.DateField()

    class Meta:
        ordering = ["on"]


class Egg(models.Model):
    """One egg and, once it is open, the hatchling in it."""

    class State(models.TextChoices):
        """How the egg stands."""

        SHUT = "shut"
        DENTED = "dented", "shut, dented"
        SLUG = "slug"
        DEAD = "dead"
        OPEN = "open"
        OUT = "out"

    clutch = models.ForeignKey(Clutch, on_delete=models.CASCADE, related_name="eggs")
    number = models.PositiveSmallIntegerField()
    state = models.CharField(max_length=10, choices=State, default=State.SHUT)
    stage = models.CharField(max_length=10, choices=Stage, default=Stage.EGG)
    sex = models.CharField(max_length=6, choices=Sex, blank=True)
    weight_g = models.FloatField(null=True, blank=True)
    across = models.FloatField(default=0.5, help_text="place in the box, 0 left to 1 right")
    down = models.FloatField(default=0.5, help_text="place in the box, 0 far to 1 near")
    note = models.TextField(blank=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["clutch", "number"], name="one_egg_of_a_number")]

    def __str__(self) -> str:
        return f"{self.clutch.code}, egg {self.number}"

    @property
    def code(self) -> str:
        """The hatchling's ID: year, clutch, egg."""
        laid = self.clutch.laid_on
        return (
            f"{laid:%y}-{self.clutch.code.replace('-', '')}-{self.number}"
            if laid
            else f"{self.clutch.code}-{self.number}"
        )

    @property
    def is_open(self) -> bool:
        """Is there a hatchling to look at?"""
        return self.state in (self.State.OPEN, self.State.OUT)

    @property
    def is_shut(self) -> bool:
        """May there still be one?"""
        return self.state in (self.State.SHUT, self.State.DENTED)
