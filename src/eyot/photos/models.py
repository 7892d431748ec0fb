"""Photos."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from eyot.season.models import Egg, Stage


class Photo(models.Model):
    """One picture of one hatchling. The files lie under ``folder``; see :mod:`eyot.photos.files`."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="photos")
    stage = models.CharField(max_length=10, choices=Stage)
    taken_at = models.DateTimeField()
    light = models.CharField(max_length=40, blank=True, help_text="what the light was taken from; empty: not corrected")
    light_marks = models.PositiveSmallIntegerField(default=0, help_text="how often the light was marked or taken back")
    simulated = models.BooleanField(default=False)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["taken_at", "added_at"]

    def __str__(self) -> str:
        return f"photo of {self.egg}, {self.get_stage_display()}"

    def size(self, name: str) -> str:
        """A size as an address names it: in its corrected light where there is one. A new mark gives a new address."""
        return f"{name}-lit{self.light_marks}" if self.light else name

    @property
    def thumb(self) -> str:
        """The smallest size."""
        return self.size("thumb")

    @property
    def page(self) -> str:
        """The size of a page."""
        return self.size("page")

    @property
    def full(self) -> str:
        """The largest size."""
        return self.size("full")

    @property
    def folder(self) -> str:
        """Where the files lie, below the photo root."""
        return f"{self.egg.clutch.collection_id}/{self.id}"
