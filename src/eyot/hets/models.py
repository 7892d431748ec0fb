"""What is known of carriers beside their parents: marks, breedings outside the record, tests; and orders to the laboratory."""

from __future__ import annotations

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from eyot.collection.models import Animal, Collection, valid_chance
from eyot.season.models import Egg

SHARE = [MinValueValidator(0.0), MaxValueValidator(1.0)]


class HetMarker(models.Model):
    """A mark of carriers that was looked for on an animal: seen, or not."""

    animal = models.ForeignKey(Animal, on_delete=models.CASCADE, related_name="marks")
    gene = models.CharField(max_length=40)
    trait = models.CharField(max_length=40)
    level = models.CharField(max_length=40)
    seen = models.BooleanField()

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["animal", "gene", "trait", "level"], name="one_answer_a_mark")]

    def __str__(self) -> str:
        return f"{self.animal}: {self.trait} {self.level} {'seen' if self.seen else 'not seen'} ({self.gene})"


class PastBreeding(models.Model):
    """A breeding that is not in the record of clutches: with whom, how many hatched, how many showed the gene."""

    class Partner(models.TextChoices):
        """What the partner was."""

        VISUAL = "visual", "a visual"
        HET = "het", "a proven het"
        POSSIBLE = "possible", "a possible het"
        NORMAL = "normal", "a normal"

    animal = models.ForeignKey(Animal, on_delete=models.CASCADE, related_name="past_breedings")
    gene = models.CharField(max_length=40)
    partner = models.CharField(max_length=8, choices=Partner)
    chance = models.CharField(max_length=12, blank=True, validators=[valid_chance], help_text="of a possible het")
    hatchlings = models.PositiveSmallIntegerField()
    visuals = models.PositiveSmallIntegerField()
    on = models.DateField()
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["on", "pk"]

    def __str__(self) -> str:
        return f"{self.animal} × {self.get_partner_display()}: {self.visuals} of {self.hatchlings} ({self.gene})"


class GeneTest(models.Model):
    """The result of a DNA test, with what the laboratory states of its errors."""

    class Result(models.TextChoices):
        """What the laboratory says."""

        CARRIER = "carrier"
        CLEAR = "clear"

    animal = models.ForeignKey(Animal, on_delete=models.CASCADE, related_name="gene_tests")
    gene = models.CharField(max_length=40)
    result = models.CharField(max_length=7, choices=Result)
    sensitivity = models.FloatField(default=0.99, validators=SHARE)
    specificity = models.FloatField(default=0.995, validators=SHARE)
    on = models.DateField()
    laboratory = models.CharField(max_length=60)
    simulated = models.BooleanField(default=False)

    class Meta:
        ordering = ["on", "pk"]

    def __str__(self) -> str:
        return f"{self.animal}: {self.gene} {self.result}, {self.laboratory}"


class LabOrder(models.Model):
    """An order to the simulated laboratory: ordered, shed received, reported."""

    animal = models.ForeignKey(Animal, on_delete=models.CASCADE, related_name="lab_orders")
    genes = models.JSONField(help_text="ids of the genes to test")
    ordered_on = models.DateField()
    received_on = models.DateField(null=True, blank=True, help_text="when the shed skin came in")
    reported_on = models.DateField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.animal}: {', '.join(self.genes)}, ordered {self.ordered_on}"


class NewTrait(models.Model):
    """Something that shows in some animals, and of which nobody knows yet whether and how it is inherited."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="new_traits")
    name = models.CharField(max_length=60)
    note = models.TextField(blank=True, help_text="what it looks like")
    proband = models.ForeignKey("Showing", on_delete=models.SET_NULL, null=True, blank=True, related_name="+")

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["collection", "name"], name="one_trait_of_a_name")]

    def __str__(self) -> str:
        return self.name


class Showing(models.Model):
    """Whether one animal or hatchling shows a new trait; the weak and the dead count as what was seen."""

    class Shows(models.TextChoices):
        """How strongly."""

        NO = "no", "no"
        YES = "yes", "yes"
        STRONG = "strong", "strongly"
        UNSEEN = "unseen", "not seen"

    trait = models.ForeignKey(NewTrait, on_delete=models.CASCADE, related_name="showings")
    animal = models.ForeignKey(Animal, on_delete=models.CASCADE, null=True, blank=True, related_name="+")
    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, null=True, blank=True, related_name="+")
    shows = models.CharField(max_length=6, choices=Shows)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(animal=None, egg__isnull=False) | models.Q(animal__isnull=False, egg=None),
                name="shown_by_one",
            ),
            models.UniqueConstraint(fields=["trait", "animal"], name="one_showing_an_animal"),
            models.UniqueConstraint(fields=["trait", "egg"], name="one_showing_an_egg"),
        ]

    def __str__(self) -> str:
        return f"{self.trait}: {self.animal or self.egg} {self.shows}"


class GeneReckoning(models.Model):
    """Where a collection's animals stand with one gene, worked out by a worker because nobody can wait for it.

    ``stamp``: of the records that it rests on; ``figures``: a row for each animal or hatchling, none where the records
    contradict one another.
    """

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="+")
    gene = models.CharField(max_length=40)
    stamp = models.CharField(max_length=64)
    reckoned_at = models.DateTimeField()
    figures = models.JSONField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["collection", "gene"], name="one_reckoning_a_gene")]

    def __str__(self) -> str:
        return f"{self.collection}: {self.gene}, {self.reckoned_at}"
