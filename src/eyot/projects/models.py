"""Projects, and what was held back for their steps."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from eyot.collection.models import Animal, Collection
from eyot.season.models import Egg


class Project(models.Model):
    """A way to an animal that does not exist yet. ``goal`` and ``rules`` have the form of ``bin/eyot core project``; ``plan``: the steps
    that were chosen, own animals named as :class:`InPlan` says; ``first_year``: whose season is season 0 of the plan."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="projects")
    name = models.CharField(max_length=80)
    goal = models.JSONField()
    rules = models.JSONField(default=dict)
    plan = models.JSONField(default=list)
    first_year = models.PositiveSmallIntegerField()
    kin_percent = models.PositiveSmallIntegerField(
        default=25, help_text="from which inbreeding on the keeper is warned"
    )
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField()
    closed_on = models.DateField(null=True, blank=True)

    class Meta:
        ordering = ["name", "pk"]
        constraints = [models.UniqueConstraint(fields=["collection", "name"], name="one_project_of_a_name")]

    def __str__(self) -> str:
        return self.name


class InPlan(models.Model):
    """An own animal of a project's plan; ``name``: the plan's name for it. One that is still to be bought is none yet: ``sought`` says what
    it has to be, its ``genes`` as of an own animal, and its ``sex``."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="in_plan")
    name = models.CharField(max_length=20)
    animal = models.ForeignKey(Animal, on_delete=models.CASCADE, null=True, blank=True, related_name="in_plans")
    sought = models.JSONField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["project", "name"], name="one_animal_of_a_name_in_a_plan")]

    def __str__(self) -> str:
        return f"{self.project}, {self.name}: {self.animal or 'to be bought'}"


class HeldFor(models.Model):
    """A hatchling that a step of a project holds back; ``step``: the plan's name for it."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="held")
    step = models.CharField(max_length=20)
    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="held_for")

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["project", "step"], name="one_hatchling_a_step"),
            models.UniqueConstraint(fields=["project", "egg"], name="a_hatchling_for_one_step"),
        ]

    def __str__(self) -> str:
        return f"{self.project}, {self.step}: {self.egg}"


class Seeking(models.Model):
    """Plans that are sought for a goal, or were: how much of the search is done, and what was found. ``plans``: None until it has ended;
    each with its steps, own animals as ``a12`` by their primary keys, and its outlook; ``bought``: who is bought for it; ``outcross``: whom
    it puts in whose place to breed less close. ``project``: for which it goes on from what is here now, if it is for one."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="seekings")
    line = models.CharField(max_length=200)
    goal = models.JSONField()
    rules = models.JSONField()
    project = models.ForeignKey(Project, on_delete=models.CASCADE, null=True, blank=True, related_name="seekings")
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    asked_at = models.DateTimeField()
    done = models.FloatField(default=0.0)
    plans = models.JSONField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.line
