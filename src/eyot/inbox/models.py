"""Photos that came and are not filed yet, and what became of them."""

from __future__ import annotations

import uuid
from datetime import timedelta

from django.conf import settings
from django.db import models

from eyot_core.photo.filing import BY_CARD, BY_LAST_CARD, WAITS

from eyot.collection.models import Collection
from eyot.photos.faults import FaultWords, in_words
from eyot.photos.models import Photo

IDLE = timedelta(minutes=3)
"""A drop of which nothing came for so long counts as ended."""


class Drop(models.Model):
    """What was dropped at once. ``expected``: how many files; known when the page has sent them all."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="drops")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    began_at = models.DateTimeField()
    last_at = models.DateTimeField(help_text="when the last file came")
    ended = models.BooleanField(default=False)

    class Meta:
        ordering = ["began_at"]

    def __str__(self) -> str:
        return f"drop of {self.began_at:%Y-%m-%d %H:%M}"


class InboxPhoto(models.Model):
    """One file that came. Its picture lies where the photo's will lie, under the same number; see :mod:`eyot.photos.files`."""

    class State(models.TextChoices):
        SENT = "sent", "to be looked at"
        WAITS = "waits", "waits to be filed"
        FILED = "filed"
        CARD = "card", "a card alone"
        KNOWN = "known", "known already"
        REFUSED = "refused", "no picture"
        LEFT_OUT = "left-out", "left out"

    class By(models.TextChoices):
        CARD = BY_CARD, "by the card in it"
        LAST_CARD = BY_LAST_CARD, "by the last card before it"
        HAND = "hand", "by hand"

    SAME, PUT_BACK = "same", "put-back"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="inbox")
    drop = models.ForeignKey(Drop, on_delete=models.CASCADE, related_name="photos")
    place = models.PositiveIntegerField(default=0, help_text="its place among the files of the drop")
    name = models.CharField(max_length=200)
    digest = models.CharField(max_length=64, help_text="SHA-256 of the file as it came")
    camera = models.CharField(max_length=16, blank=True, help_text="which photos are of one camera")
    taken_at = models.DateTimeField(null=True, blank=True)
    dated_by = models.CharField(max_length=10, blank=True, help_text="camera or file; empty where no date is sure")
    date_said = models.CharField(max_length=40, blank=True, help_text="a date that can't be, as it was said")
    came_at = models.DateTimeField()
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    simulated = models.BooleanField(default=False)
    state = models.CharField(max_length=10, choices=State, default=State.SENT)
    why = models.CharField(max_length=300, blank=True, help_text="why it waits, a key; why it was refused, in words")
    named = models.CharField(max_length=80, blank=True, help_text="the hatchling or clutch that a card names")
    by_hand = models.BooleanField(default=False, help_text="somebody has decided; no card files it any more")
    looked = models.JSONField(default=dict, blank=True, help_text="cards, line and light as they were seen in it")
    kind = models.CharField(max_length=12, blank=True, help_text="what it seems to show; empty: nothing recognised")
    kind_sure = models.FloatField(default=0.0)
    fingerprint = models.BinaryField(default=bytes)
    brightness = models.PositiveSmallIntegerField(default=0, help_text="the fingerprint's mean")
    same_as = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    stands_as = models.ForeignKey(
        Photo,
        on_delete=models.SET_NULL,
        null=True,
        blank=True,
        related_name="+",
        help_text="a photo that was added on another page and shows the same",
    )
    photo = models.OneToOneField(Photo, on_delete=models.SET_NULL, null=True, blank=True, related_name="came_as")
    filed_by = models.CharField(max_length=10, choices=By, blank=True)
    filed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["taken_at", "came_at", "place"]
        indexes = [models.Index(fields=["collection", "state"]), models.Index(fields=["collection", "digest"])]

    def __str__(self) -> str:
        return self.name

    @property
    def folder(self) -> str:
        """Where its picture lies, below the root of the store."""
        return Photo.folder_of(self.collection_id, self.id)

    @property
    def ids(self) -> tuple[str, ...]:
        """What the cards in it say."""
        return tuple(card["id"] for card in self.looked.get("cards", ()) if card["id"])

    @property
    def like(self) -> str:
        """What shows the same: a file that came before, or a photo that was added on another page; empty where there is none."""
        return f"the {self.stands_as}" if self.stands_as else str(self.same_as or "")

    @property
    def fault_words(self) -> list[FaultWords]:
        """What is wrong with it, in words."""
        return in_words(self.looked.get("faults", ()))

    @property
    def why_words(self) -> str:
        """Why it waits, in words."""
        if self.why == self.SAME:
            return f"it looks like {self.like or 'one that came before'}"
        return WAITS.get(self.why, "put back by hand" if self.why == self.PUT_BACK else self.why)


class Print(models.Model):
    """What a photo that was added on another page looks like, small: so that a file that shows the same is known in the inbox."""

    photo = models.OneToOneField(Photo, on_delete=models.CASCADE, primary_key=True, related_name="print")
    fingerprint = models.BinaryField()
    brightness = models.PositiveSmallIntegerField(help_text="the fingerprint's mean")

    def __str__(self) -> str:
        return f"print of the {self.photo}"
