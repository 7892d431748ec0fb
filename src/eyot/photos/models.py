"""Photos, what was marked in them, and what was made of them."""

from __future__ import annotations

import uuid
from typing import Any

from django.conf import settings
from django.db import models

from eyot_core.photo.light import Light
from eyot_core.photo.printed_grey import PrintedGrey

from eyot.collection.models import Collection
from eyot.photos.faults import FaultWords, in_words
from eyot.season.models import Egg, Stage

WORTH_TELLING = 0.005
"""The share of a strip that has to be spoilt before it is shown."""


SURE_OF_LINE = 0.5
"""Confidence from which a line that was found is shown without a doubt."""


class ShownPhotos(models.Manager["Photo"]):
    """The photos that were not taken away."""

    def get_queryset(self) -> models.QuerySet[Photo]:
        """All of them but those taken away."""
        return super().get_queryset().filter(taken_away_at=None)


class Photo(models.Model):
    """One picture of one hatchling. The files lie under ``folder``; see :mod:`eyot.photos.files`.

    What is made of a photo is made by jobs. ``sizes_wanted``, ``find_wanted`` (cards and the line are sought) and ``strip_wanted`` count
    up with every change of what they depend on; ``…_done`` follows when a job has finished: the two differ while something is under way.
    """

    class Kind(models.TextChoices):
        BACK = "back", "from above"
        BELLY = "belly", "belly"
        HEAD = "head", "head close-up"
        VENT = "vent", "vent"
        TAIL = "tail", "tail from below"
        ULTRAVIOLET = "ultraviolet", "ultraviolet"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="photos")
    stage = models.CharField(max_length=10, choices=Stage)
    kind = models.CharField(max_length=12, choices=Kind, default=Kind.BACK)
    taken_at = models.DateTimeField()
    light = models.CharField(max_length=40, blank=True, help_text="what the light was taken from; empty: not corrected")
    light_data = models.JSONField(default=dict, blank=True, help_text="gains, place and matrix of the light")
    light_from = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, blank=True, related_name="lent_to")
    line = models.JSONField(default=dict, blank=True, help_text="points in pixels of the upright original, range of u")
    line_confidence = models.FloatField(
        null=True, blank=True, help_text="0 to 1, of a line that was found and nobody has confirmed; else empty"
    )
    line_missing = models.CharField(max_length=200, blank=True, help_text="why no line could be found")
    cards = models.JSONField(
        default=list, blank=True, help_text="cards that were found in it, as bin/eyot core card-in prints them"
    )
    card_overruled = models.BooleanField(
        default=False, help_text="somebody said whose photo it is, whatever its card says"
    )
    size = models.JSONField(
        default=dict, blank=True, help_text="length and girth in cm with standard deviations, by a card"
    )
    faults = models.JSONField(
        default=list, blank=True, help_text="what is wrong with it: dark, blurred and so on, and by how much"
    )
    find_wanted = models.PositiveIntegerField(default=0)
    find_done = models.PositiveIntegerField(default=0)
    brush_marks = models.PositiveSmallIntegerField(default=0, help_text="how often the outline was brushed; 0: never")
    sizes_wanted = models.PositiveIntegerField(default=1)
    sizes_done = models.PositiveIntegerField(default=0)
    strip_wanted = models.PositiveIntegerField(default=0)
    strip_done = models.PositiveIntegerField(default=0)
    trouble = models.TextField(blank=True, help_text="why no strip could be made")
    measures = models.JSONField(default=dict, blank=True)
    reckoning = models.PositiveSmallIntegerField(
        default=0,
        help_text="the version of the reckoning that strip and measures were made by; 0 before versions were kept",
    )
    outline = models.JSONField(
        default=list, blank=True, help_text="the body's outline, points in pixels of the original"
    )
    spoilt = models.JSONField(
        default=dict, blank=True, help_text="shares of the strip that are burnt out, too dark, shown"
    )
    simulated = models.BooleanField(default=False)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    added_at = models.DateTimeField(auto_now_add=True)
    original_missing = models.BooleanField(
        default=False, help_text="its file was looked for in the store and not found"
    )
    taken_away_at = models.DateTimeField(null=True, blank=True, help_text="shown nowhere since; its files stay")

    BODIES = (Kind.BACK, Kind.BELLY)
    """What shows a body from end to end, so that its line is sought."""

    objects = ShownPhotos()
    everything: models.Manager[Photo] = models.Manager()

    class Meta:
        ordering = ["taken_at", "added_at"]

    def __str__(self) -> str:
        return f"photo of {self.egg}, {self.get_stage_display()}"

    @property
    def thumb(self) -> str:
        """The smallest size, as an address names it: a new version gives a new address."""
        return f"thumb-{self.sizes_done}"

    @property
    def page(self) -> str:
        """The size of a page."""
        return f"page-{self.sizes_done}"

    @property
    def full(self) -> str:
        """The largest size."""
        return f"full-{self.sizes_done}"

    @property
    def strip(self) -> str:
        """The strip, or the crop of a belly or a head."""
        return f"strip-{self.strip_done}"

    @property
    def overlay(self) -> str:
        """What was not measured, to be laid over the strip; empty where all was."""
        return f"spoilt-{self.strip_done}" if self.burnt_out + self.too_dark > WORTH_TELLING else ""

    @property
    def burnt_out(self) -> float:
        """The share of the strip that is burnt out, 0 to 1."""
        return float(self.spoilt.get("clipped", 0.0))

    @property
    def too_dark(self) -> float:
        """The share of the strip that is too dark, 0 to 1."""
        return float(self.spoilt.get("dark", 0.0))

    @property
    def has_sizes(self) -> bool:
        """Is there anything to show yet?"""
        return self.sizes_done > 0

    @property
    def has_strip(self) -> bool:
        """Is there a strip, or a crop, of what is marked now or was before?"""
        return bool(self.line) and self.strip_done > 0 and not self.trouble

    @property
    def is_waiting(self) -> bool:
        """Is something of it still to be made?"""
        return self.sizes_done < self.sizes_wanted or self.is_sought or self.strip_done < self.strip_wanted

    @property
    def card_id(self) -> str:
        """What the one card in it says; empty where there is none, or several disagree."""
        ids = {card["id"] for card in self.cards if card["id"]}
        return ids.pop() if len(ids) == 1 else ""

    @property
    def has_printed_grey(self) -> bool:
        """Does a card in it carry a printed grey?"""
        return any("printed_grey" in card for card in self.cards)

    @property
    def is_of_another_print(self) -> bool:
        """Does a card in it carry a grey that is not the one that was set: another printer's, or shown on a screen?"""
        return any("other_print" in card for card in self.cards)

    @property
    def size_words(self) -> str:
        """Length and girth in words; empty where no card tells them."""
        return ", ".join(f"{name} {words}" for name in ("length", "girth") if (words := self.size_word(name)))

    def size_word(self, name: str) -> str:
        """Length or girth in words; empty where it is not known."""
        return f"{self.size[name]:.1f} ± {self.size[f'{name}_sd']:.1f} cm" if self.size.get(name) else ""

    @property
    def fault_words(self) -> list[FaultWords]:
        """What is wrong with it, in words."""
        return in_words(self.faults)

    @property
    def shows_a_body(self) -> bool:
        """Is a whole body to be expected in it, so that its line can be sought?"""
        return self.kind in self.BODIES and self.stage != Stage.EGG

    @property
    def is_sought(self) -> bool:
        """Is its line still to be looked for?"""
        return self.find_done < self.find_wanted

    @property
    def is_unchecked(self) -> bool:
        """Was its line found, and looked at by nobody yet?"""
        return bool(self.line) and self.line_confidence is not None

    @property
    def is_doubtful(self) -> bool:
        """Is a line that nobody has looked at hardly sure?"""
        return self.is_unchecked and (self.line_confidence or 0.0) < SURE_OF_LINE

    @property
    def folder(self) -> str:
        """Where the files lie, below the root of the store."""
        return self.folder_of(self.egg.clutch.collection_id, self.id)

    @staticmethod
    def folder_of(collection: int, photo: uuid.UUID | str) -> str:
        """Where the files of a photo of a collection lie."""
        return f"{collection}/{photo}"

    def set_light(self, light: Light, lends: Photo | None = None) -> None:
        """Puts a light, and whose photo lends it, into the fields; nothing is saved."""
        self.light, self.light_from, self.light_data = light.card, lends, light_document(light)

    def known_light(self) -> Light | None:
        """The light to correct by; never for ultraviolet photos."""
        return None if self.kind == self.Kind.ULTRAVIOLET else light_from(self.light_data)


class GreyPrint(models.Model):
    """What a printed grey, and the paper of the card around it, throw back: set by one photo. The latest of a collection counts."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="grey_prints")
    grey = models.JSONField(help_text="share of red, green and blue light, 0 to 1")
    paper = models.JSONField(help_text="the same of the card's bare paper")
    set_at = models.DateTimeField()
    set_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["set_at"]

    def __str__(self) -> str:
        return f"printed grey of {self.set_at:%Y-%m-%d}"

    @property
    def words(self) -> str:
        """What it throws back, in words."""
        red, green, blue = (f"{100 * share:.0f} %" for share in self.grey)
        return f"{red} of red light, {green} of green, {blue} of blue"

    @property
    def known(self) -> PrintedGrey:
        """As the core takes it."""
        return PrintedGrey(tuple(self.grey), tuple(self.paper))


def light_document(light: Light) -> dict[str, Any]:
    """A light as a photo keeps it."""
    return {"card": light.card, "gains": light.gains, "place": light.place, "mix": light.mix}


def light_from(kept: dict[str, Any]) -> Light | None:
    """A light that was kept; None where none was."""
    if not kept:
        return None
    place, gains = kept.get("place"), kept["gains"]
    return Light(
        kept["card"],
        (gains[0], gains[1], gains[2]),
        (place[0], place[1]) if place else None,
        tuple(kept.get("mix", ())),
    )
