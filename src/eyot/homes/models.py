"""What becomes of each hatchling, what is written on its label, and who outside was shown which. Fates and labels are only ever added;
the latest counts."""

from __future__ import annotations

from datetime import datetime

from django.conf import settings
from django.db import models

from eyot.bench.models import Call
from eyot.collection.models import Collection
from eyot.season.models import Egg


class Fate(models.Model):
    """What becomes of a hatchling from a day on. None: to be decided. That one died stands as the state of its egg."""

    class State(models.TextChoices):
        """What becomes of it, by how far it is settled."""

        OPEN = "open", "to be decided"
        HELD = "held", "held back"
        LISTED = "listed", "listed"
        RESERVED = "reserved", "reserved"
        SOLD = "sold", "sold"
        GIVEN = "given", "given away"

    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="fates")
    state = models.CharField(max_length=10, choices=State)
    on = models.DateField()
    who = models.CharField(max_length=80, blank=True, help_text="for whom it is reserved, or who has it now")
    until = models.DateField(null=True, blank=True, help_text="until when it is reserved")
    project = models.CharField(max_length=80, blank=True, help_text="for what it is held back")
    why = models.CharField(max_length=300, blank=True)
    price = models.DecimalField(
        max_digits=12, decimal_places=3, null=True, blank=True, help_text="what it was sold for"
    )
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField()

    class Meta:
        ordering = ["made_at", "pk"]

    def __str__(self) -> str:
        return f"{self.egg}: {self.get_state_display()}"

    @property
    def is_gone(self) -> bool:
        """Does it live with somebody else?"""
        return self.state in (self.State.SOLD, self.State.GIVEN)


class OwnLabel(models.Model):
    """What the keeper writes on a hatchling's label, and what it costs. An empty text: as it is made from the call."""

    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="own_labels")
    text = models.CharField(max_length=300, blank=True)
    price = models.DecimalField(max_digits=12, decimal_places=3, null=True, blank=True)
    overruled = models.JSONField(default=list, blank=True, help_text="what it promises beyond the call, in sentences")
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField()

    class Meta:
        ordering = ["made_at", "pk"]

    def __str__(self) -> str:
        return f"{self.egg}: {self.text or 'as called'}"


class LabelSheet(models.Model):
    """A sheet of labels by its measures, in millimetres. ``across`` and ``down``: from one label's edge to the next one's."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="label_sheets")
    name = models.CharField(max_length=60)
    page_width = models.FloatField()
    page_height = models.FloatField()
    columns = models.PositiveSmallIntegerField()
    rows = models.PositiveSmallIntegerField()
    width = models.FloatField()
    height = models.FloatField()
    left = models.FloatField()
    top = models.FloatField()
    across = models.FloatField()
    down = models.FloatField()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["collection", "name"], name="one_label_sheet_of_a_name")]

    def __str__(self) -> str:
        return self.name


class BuyersPage(models.Model):
    """A page for buyers by a link, which shows the hatchlings that the keeper ticked and nothing else, until it ends."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="buyers_pages")
    token = models.CharField(max_length=40, unique=True)
    title = models.CharField(max_length=80)
    words = models.TextField(blank=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField()
    expires_at = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.title

    def is_open(self, at: datetime) -> bool:
        """May it be read now?"""
        return self.withdrawn_at is None and at < self.expires_at


class Offered(models.Model):
    """One hatchling on a buyers' page."""

    page = models.ForeignKey(BuyersPage, on_delete=models.CASCADE, related_name="offered")
    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="+")

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["page", "egg"], name="offered_once_on_a_page")]

    def __str__(self) -> str:
        return f"{self.page}: {self.egg}"


class Reservation(models.Model):
    """Somebody asks to have a hatchling reserved, through a buyers' page. ``settled_at``: when a member dealt with it."""

    page = models.ForeignKey(BuyersPage, on_delete=models.CASCADE, related_name="reservations")
    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="reservations")
    name = models.CharField(max_length=80)
    answer_to = models.CharField(max_length=120, help_text="how to answer: a telephone number, an address")
    text = models.TextField(blank=True)
    asked_at = models.DateTimeField()
    settled_at = models.DateTimeField(null=True, blank=True)
    settled_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="+"
    )

    class Meta:
        ordering = ["asked_at", "pk"]

    def __str__(self) -> str:
        return f"{self.egg}, for {self.name}"


class Issued(models.Model):
    """What was printed, listed or handed out of a hatchling, with the words that stood on it and the call they rested on."""

    class Kind(models.TextChoices):
        """On what it stands."""

        LABEL = "label"
        LIST = "list"
        PAGE = "page", "buyers’ page"
        PAPER = "paper"

    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="issued")
    kind = models.CharField(max_length=6, choices=Kind)
    call = models.ForeignKey(Call, on_delete=models.CASCADE, null=True, blank=True, related_name="+")
    text = models.CharField(max_length=300, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    settled_at = models.DateTimeField(
        null=True, blank=True, help_text="when a member said that the old words are dealt with"
    )

    class Meta:
        ordering = ["at", "pk"]

    def __str__(self) -> str:
        return f"{self.egg}, {self.get_kind_display()}: {self.text}"


class ListPrint(models.Model):
    """A list that a worker writes as PDF: whom it shows, how many of them are written, and the file once it is whole."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="list_prints")
    eggs = models.JSONField(help_text="whom it shows, in order")
    title = models.CharField(max_length=80)
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    asked_at = models.DateTimeField()
    done = models.PositiveIntegerField(default=0)
    pdf = models.BinaryField(null=True, blank=True)
    trouble = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.title}: {self.done} of {len(self.eggs)}"

    @property
    def total(self) -> int:
        """How many it shows."""
        return len(self.eggs)
