"""Own references: photos of confirmed animals, pinned to what they show."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from eyot.collection.models import Collection
from eyot.photos.models import Photo


class Pin(models.Model):
    """A photo that stands for a combination. ``key``: its genes in the order of their names, joined by dots."""

    class Confirmed(models.TextChoices):
        """How it is known that the animal is what it stands for; the surest first."""

        BRED = "bred", "by its offspring"
        TESTED = "tested", "by a DNA test"
        PARENTS = "parents", "by its parents alone"
        SEEN = "seen", "by its looks"

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="pins")
    photo = models.ForeignKey(Photo, on_delete=models.CASCADE, related_name="pins")
    key = models.CharField(max_length=400)
    confirmed = models.CharField(max_length=10, choices=Confirmed)
    note = models.CharField(max_length=300, blank=True)
    pinned_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    pinned_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["photo", "key"], name="one_pin_each")]

    def __str__(self) -> str:
        return f"{self.photo} for {self.key}"
