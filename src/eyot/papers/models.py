"""Papers handed out, and papers that came with animals."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from eyot.collection.models import Collection
from eyot.season.models import Egg


class PaperOut(models.Model):
    """The paper of a hatchling: one number for all its versions; a version is another where anything in it is."""

    egg = models.OneToOneField(Egg, on_delete=models.CASCADE, related_name="paper_out")
    number = models.UUIDField(default=uuid.uuid4, unique=True)
    version = models.PositiveIntegerField(default=1)
    content = models.CharField(max_length=64, help_text="SHA-256 of what the version says, but for its day")

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.egg}: paper, version {self.version}"


class PaperIn(models.Model):
    """A paper that was read. ``egg`` is empty until the animal is taken over from it; ``altered``: it was not as it was made."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="papers_in")
    number = models.UUIDField()
    version = models.PositiveIntegerField()
    document = models.JSONField()
    altered = models.BooleanField(default=False)
    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, null=True, blank=True, related_name="papers_in")
    read_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    read_at = models.DateTimeField()

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.document.get('animal', {}).get('name', 'paper')}, version {self.version}"
