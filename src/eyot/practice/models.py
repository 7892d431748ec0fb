"""Made-up animals, the exercises that were put to somebody and what was answered, drills spaced over days, and races."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models

from eyot.collection.models import Collection
from eyot.season.models import Egg, Stage


class MadeUpAnimal(models.Model):
    """An animal that was made up after the model: its parents' genes as in a pairing, its genotype, the looks that it shows at a stage. No
    two have the same ``seed``."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="made_up")
    seed = models.BigIntegerField()
    stage = models.CharField(max_length=8, choices=Stage)
    dam = models.JSONField()
    sire = models.JSONField()
    genotype = models.JSONField()
    looks = models.JSONField()
    made_at = models.DateTimeField()

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["collection", "seed"], name="one_animal_a_seed")]

    def __str__(self) -> str:
        return f"a made-up animal ({self.pk})"


class MadeUpPhoto(models.Model):
    """The simulated photo of a made-up animal, a JPEG; empty until a worker made it. ``failed``: it could not be made."""

    animal = models.OneToOneField(MadeUpAnimal, on_delete=models.CASCADE, related_name="photo")
    jpeg = models.BinaryField(default=b"")
    failed = models.BooleanField(default=False)

    def __str__(self) -> str:
        return f"photo of {self.animal}"


class Evening(models.Model):
    """A whole evening on made-up animals, in a collection of its own, with the product's own pages. The truth is shown from
    ``shown_at`` on; what is called later counts no more."""

    collection = models.OneToOneField(Collection, on_delete=models.CASCADE, related_name="evening")
    made_at = models.DateTimeField()
    shed_at = models.DateTimeField(null=True, blank=True)
    shown_at = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return f"evening of {self.made_at:%Y-%m-%d}"


class EveningEgg(models.Model):
    """An egg of an evening and the animal in it."""

    egg = models.OneToOneField(Egg, on_delete=models.CASCADE, related_name="evening_egg")
    animal = models.ForeignKey(MadeUpAnimal, on_delete=models.CASCADE, related_name="+")

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.egg}: {self.animal}"


class Race(models.Model):
    """Who names most rightly, egg by egg: two names on one device, or two members on two."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="races")
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    players = models.JSONField(help_text="the names of those who play, in their order")
    made_at = models.DateTimeField()

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"race of {' and '.join(self.players)}"


class Exercise(models.Model):
    """One question put to one person. ``picture``: what is shown; ``is_given``: are the parents told?; ``look``, ``pair``: what is asked
    about. What was ``said``: None until it is answered, and never changed then."""

    class Kind(models.TextChoices):
        """What is asked."""

        NAME = "name", "name it"
        LOOK = "look", "one look"
        PAIR = "pair", "two that look alike"
        OWN = "own", "your own animals"

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="exercises")
    member = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    player = models.CharField(max_length=30, blank=True)
    kind = models.CharField(max_length=4, choices=Kind)
    animal = models.ForeignKey(MadeUpAnimal, on_delete=models.CASCADE, null=True, blank=True, related_name="exercises")
    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, null=True, blank=True, related_name="exercises")
    picture = models.CharField(max_length=8)
    is_given = models.BooleanField(default=True)
    look = models.CharField(max_length=40, blank=True)
    pair = models.CharField(max_length=120, blank=True)
    race = models.ForeignKey(Race, on_delete=models.CASCADE, null=True, blank=True, related_name="exercises")
    asked_at = models.DateTimeField()
    said = models.JSONField(null=True, blank=True)
    answered_at = models.DateTimeField(null=True, blank=True)
    lost = models.FloatField(null=True, blank=True)
    luck = models.FloatField(null=True, blank=True)
    is_right = models.BooleanField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["collection", "member", "kind"])]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} ({self.pk})"

    @property
    def answer(self) -> dict[str, Any]:
        """What was said; empty before."""
        return self.said or {}


class Wish(models.Model):
    """What somebody wants of practice: due pairs told on *Today*, and his figures shown beside those of other members who want it too."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="practice_wishes")
    member = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    on_today = models.BooleanField(default=False)
    shares = models.BooleanField(default=False)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["collection", "member"], name="one_wish_a_member")]

    def __str__(self) -> str:
        return f"{self.member}: {self.on_today}, {self.shares}"


class Drill(models.Model):
    """A pair of look-alikes that somebody drills, as the library of spaced repetition keeps it; ``due_at``: when it comes next."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="drills")
    member = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    pair = models.CharField(max_length=120)
    card = models.JSONField()
    due_at = models.DateTimeField()

    class Meta:
        ordering = ["due_at", "pk"]
        constraints = [models.UniqueConstraint(fields=["collection", "member", "pair"], name="one_drill_a_pair")]

    def __str__(self) -> str:
        return self.pair
