"""Looks and calls. Rows are only ever added; what no longer counts is marked, never overwritten."""

from __future__ import annotations

import uuid
from datetime import datetime

from django.conf import settings
from django.db import models

from eyot.season.models import Clutch, Egg, Stage


class Confidence(models.TextChoices):
    """How sure the eye was."""

    SURE = "sure"
    LIKELY = "likely"
    HINT = "hint"


class Looks(models.QuerySet["Look"]):
    """Looks of a clutch or more."""

    def that_may_count(self) -> Looks:
        """Without those of outside eyes whose answers no member has let count."""
        return self.exclude(seen_by__invitation__counts=False)


class Look(models.Model):
    """One answer to one trait's question. ``level`` may be ``unseen``."""

    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="looks")
    trait = models.CharField(max_length=40)
    level = models.CharField(max_length=40)
    stage = models.CharField(max_length=10, choices=Stage)
    confidence = models.CharField(max_length=6, choices=Confidence, default=Confidence.SURE)
    light = models.CharField(max_length=40, blank=True)
    measured = models.CharField(
        max_length=160, blank=True, help_text="what was measured in a photo, where its suggestion was accepted"
    )
    seen_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    seen_at = models.DateTimeField()
    key = models.UUIDField(
        default=uuid.uuid4, unique=True, help_text="given by the device, so that an answer sent twice counts once"
    )
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    objects = Looks.as_manager()

    class Meta:
        ordering = ["seen_at", "pk"]
        indexes = [models.Index(fields=["egg", "trait", "stage"], name="look_by_question")]

    def __str__(self) -> str:
        return f"{self.egg}: {self.trait} {self.level} ({self.stage})"

    @property
    def stands_apart(self) -> bool:
        """Is it of an outside eye whose answers no member has let count? Needs ``seen_by__invitation`` to be read before."""
        invitation: Invitation | None = getattr(self.seen_by, "invitation", None)
        return invitation is not None and not invitation.counts


class SiblingComparison(models.Model):
    """Two siblings compared by one look: ``egg`` shows more, less or the same of it than ``other``."""

    class Answer(models.TextChoices):
        """How the one stands to the other."""

        MORE = "more"
        SAME = "same"
        LESS = "less"

    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="beside")
    other = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="beside_of")
    trait = models.CharField(max_length=40)
    answer = models.CharField(max_length=4, choices=Answer)
    stage = models.CharField(max_length=10, choices=Stage)
    confidence = models.CharField(max_length=6, choices=Confidence, default=Confidence.SURE)
    seen_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    seen_at = models.DateTimeField()
    key = models.UUIDField(default=uuid.uuid4, unique=True)
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["seen_at", "pk"]
        constraints = [models.CheckConstraint(condition=~models.Q(egg=models.F("other")), name="beside_another_egg")]

    def __str__(self) -> str:
        return f"{self.egg}: {self.trait} {self.answer} than {self.other}"


class Call(models.Model):
    """What a keeper holds a hatchling to be, at one moment, with the reasons in words."""

    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="calls")
    stage = models.CharField(max_length=10, choices=Stage)
    label = models.TextField()
    note = models.TextField(blank=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField()
    key = models.UUIDField(default=uuid.uuid4, unique=True)

    class Meta:
        ordering = ["made_at", "pk"]

    def __str__(self) -> str:
        return f"{self.egg}: {self.label}"


class CalledGene(models.Model):
    """One gene of a call, with the chances as they stood then."""

    class Verdict(models.TextChoices):
        """How sure the keeper is."""

        SURE = "sure"
        LIKELY = "likely"
        POSSIBLE = "possible"
        NOT = "not"
        UNKNOWN = "unknown", "no idea"
        EITHER = "either", "this or that"

    call = models.ForeignKey(Call, on_delete=models.CASCADE, related_name="genes")
    gene = models.CharField(max_length=40)
    verdict = models.CharField(max_length=8, choices=Verdict)
    copies = models.PositiveSmallIntegerField(default=1)
    maybe_two = models.BooleanField(default=False, help_text="one copy is called, a second is possible")
    reason = models.TextField(blank=True, help_text="why a gene is called that the parents are not known to have")
    chance = models.FloatField(help_text="of what is called, after looking, as it stood then")
    from_parents = models.FloatField(help_text="the same, from the parents alone")

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["call", "gene"], name="one_verdict_a_gene")]

    def __str__(self) -> str:
        return f"{self.gene}: {self.verdict}"


class SellersClaim(models.Model):
    """What somebody says that an animal is, as a line of genes, and how far that is trusted. The latest counts; an empty line: none."""

    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="claims")
    line = models.TextField(blank=True)
    trust_percent = models.PositiveSmallIntegerField(help_text="how likely it is right, of what can be right or wrong")
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField()

    class Meta:
        ordering = ["made_at", "pk"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(trust_percent__gte=1, trust_percent__lte=99), name="a_claim_is_never_certain"
            )
        ]

    def __str__(self) -> str:
        return f"{self.egg}: {self.line or 'no claim'} ({self.trust_percent} %)"


class Proof(models.Model):
    """What a gene of a hatchling turned out to be, by breeding, a test, or age."""

    class How(models.TextChoices):
        """What proved it."""

        BRED = "bred", "breeding"
        TESTED = "tested", "a test"
        AGED = "aged", "age"

    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="proofs")
    gene = models.CharField(max_length=40)
    copies = models.PositiveSmallIntegerField(choices=[(0, "none"), (1, "one"), (2, "two")])
    how = models.CharField(max_length=6, choices=How)
    on = models.DateField()

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["egg", "gene"], name="one_proof_a_gene")]

    def __str__(self) -> str:
        return f"{self.egg}: {self.gene} ×{self.copies} ({self.how})"


class FirstGuess(models.Model):
    """What somebody held a hatchling to be before seeing any chance or anybody else's answers; never changed."""

    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="first_guesses")
    stage = models.CharField(max_length=10, choices=Stage)
    text = models.CharField(max_length=200)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "pk"]
        constraints = [models.UniqueConstraint(fields=["egg", "stage", "by"], name="one_first_guess_each")]

    def __str__(self) -> str:
        return f"{self.egg}: {self.text} ({self.by})"


class Invitation(models.Model):
    """A link by which somebody outside may look at one clutch, until it ends. ``eye``: under whom the answers are kept."""

    clutch = models.ForeignKey(Clutch, on_delete=models.CASCADE, related_name="invitations")
    token = models.CharField(max_length=40, unique=True)
    name = models.CharField(max_length=40, help_text="for whom it is")
    eye = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="invitation")
    invited_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField()
    expires_at = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True, blank=True)
    counts = models.BooleanField(default=False, help_text="a member lets its answers count among his own")

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.clutch.code}, for {self.name}"

    def is_open(self, at: datetime) -> bool:
        """May it be used now?"""
        return self.withdrawn_at is None and at < self.expires_at
