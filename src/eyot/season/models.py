"""Clutches, their sires, eggs, and matings."""

from __future__ import annotations

from datetime import date

from django.db import models

from eyot_core.catalogue import STAGES

from eyot.collection.models import Animal, Collection, Sex


class Stage(models.TextChoices):
    """When in its life a hatchling is looked at, in order."""

    EGG = "egg", "in the egg"
    WET = "wet", "out, wet"
    BLUE = "blue", "in the blue"
    SHED = "shed", "after the first shed"
    MONTHS = "months", "months old"
    ADULT = "adult", "adult"


assert tuple(Stage.values) == STAGES


class ClutchesHere(models.Manager["Clutch"]):
    """The clutches that the keeper has seen."""

    def get_queryset(self) -> models.QuerySet[Clutch]:
        """All but those that were laid elsewhere."""
        return super().get_queryset().filter(elsewhere=False)


class Clutch(models.Model):
    """The eggs of one laying, or a pairing that has not laid yet (``laid_on`` empty).

    ``elsewhere``: an animal came from it whose clutch nobody here has seen. It has that one egg and stands in no list of clutches;
    what is known of the parents stands with the animal.
    """

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="clutches")
    code = models.SlugField(max_length=20)
    elsewhere = models.BooleanField(default=False, help_text="one animal came from it; nobody here has seen it")
    dam = models.ForeignKey(Animal, on_delete=models.PROTECT, null=True, blank=True, related_name="clutches_laid")
    sires = models.ManyToManyField(Animal, through="ClutchSire", related_name="clutches_sired")
    paired_on = models.DateField(null=True, blank=True)
    ovulated_on = models.DateField(null=True, blank=True)
    prelay_shed_on = models.DateField(null=True, blank=True)
    laid_on = models.DateField(null=True, blank=True)
    cut_on = models.DateField(null=True, blank=True)
    out_on = models.DateField(null=True, blank=True)
    shed_on = models.DateField(null=True, blank=True)
    closed_on = models.DateField(null=True, blank=True)
    place = models.CharField(max_length=80, blank=True)
    substrate = models.CharField(max_length=40, blank=True)
    incubator = models.ForeignKey("Incubator", on_delete=models.PROTECT, null=True, blank=True, related_name="clutches")
    mean_c = models.FloatField(
        null=True, blank=True, help_text="the incubator's mean in °C over the clutch's time in it"
    )
    ready_signs = models.JSONField(default=list, blank=True, help_text="which ready signs were seen")
    note = models.TextField(blank=True)

    objects = ClutchesHere()
    everything: models.Manager[Clutch] = models.Manager()

    class Meta:
        ordering = ["code"]
        constraints = [
            models.UniqueConstraint(fields=["collection", "code"], name="one_clutch_of_a_code"),
            models.CheckConstraint(
                condition=models.Q(elsewhere=True) ^ models.Q(dam__isnull=False), name="a_dam_of_a_clutch_here"
            ),
        ]

    def __str__(self) -> str:
        return self.code

    @property
    def own_dam(self) -> Animal:
        """The dam of a clutch that was laid here."""
        assert self.dam is not None
        return self.dam

    @property
    def sire_words(self) -> str:
        """Its sires in words, or that the sire is not known: of ``clutch_sires`` as read before."""
        return " or ".join(entry.sire.name for entry in self.clutch_sires.all()) or "a sire not known"


class ClutchSire(models.Model):
    """A sire that may have fathered eggs of the clutch; ``weight``: how likely, relative to the others."""

    clutch = models.ForeignKey(Clutch, on_delete=models.CASCADE, related_name="clutch_sires")
    sire = models.ForeignKey(Animal, on_delete=models.PROTECT, related_name="+")
    weight = models.FloatField(default=1)

    class Meta:
        ordering = ["pk"]


class Round(models.Model):
    """One introduction of a sire to the dam: brought together, perhaps seen locked, taken apart."""

    clutch = models.ForeignKey(Clutch, on_delete=models.CASCADE, related_name="rounds")
    sire = models.ForeignKey(Animal, on_delete=models.PROTECT, related_name="+")
    introduced_on = models.DateField()
    locked_on = models.DateField(null=True, blank=True)
    separated_on = models.DateField(null=True, blank=True)

    class Meta:
        ordering = ["introduced_on", "pk"]

    def __str__(self) -> str:
        return f"{self.clutch.code}: {self.sire.name} introduced {self.introduced_on}"


class Incubator(models.Model):
    """A place where eggs are kept warm, with a log of temperatures."""

    collection = models.ForeignKey(Collection, on_delete=models.CASCADE, related_name="incubators")
    name = models.CharField(max_length=60)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["collection", "name"], name="one_incubator_of_a_name")]

    def __str__(self) -> str:
        return self.name


class Temperature(models.Model):
    """One reading of an incubator's logger."""

    incubator = models.ForeignKey(Incubator, on_delete=models.CASCADE, related_name="temperatures")
    at = models.DateTimeField()
    celsius = models.FloatField()
    simulated = models.BooleanField(default=False)

    class Meta:
        ordering = ["at"]
        constraints = [models.UniqueConstraint(fields=["incubator", "at"], name="one_reading_at_a_time")]


class Sexing(models.TextChoices):
    """How a sex was determined."""

    POPPED = "popped"
    PROBED = "probed"
    SHED = "shed test", "shed test"
    LATER = "later", "seen later"


class Egg(models.Model):
    """One egg and, once it is open, the hatchling in it."""

    class State(models.TextChoices):
        """How the egg stands."""

        SHUT = "shut", "shut, sound"
        DENTED = "dented", "shut, dented"
        MOULDY = "mouldy", "shut, mouldy"
        SLUG = "slug"
        DEAD = "dead"
        PIPPED = "pipped"
        OPEN = "open", "cut open"
        WRAPPED = "wrapped", "open, cord or yolk wrapped"
        OUT = "out"

    clutch = models.ForeignKey(Clutch, on_delete=models.CASCADE, related_name="eggs")
    number = models.PositiveSmallIntegerField()
    state = models.CharField(max_length=10, choices=State, default=State.SHUT)
    stage = models.CharField(max_length=10, choices=Stage, default=Stage.EGG)
    sex = models.CharField(max_length=6, choices=Sex, blank=True)
    sexed_by = models.CharField(max_length=10, choices=Sexing, blank=True)
    sex_sure = models.BooleanField(default=True)
    kept_as = models.OneToOneField(Animal, on_delete=models.PROTECT, null=True, blank=True, related_name="hatched_from")
    out_on = models.DateField(null=True, blank=True)
    blue_on = models.DateField(null=True, blank=True)
    shed_on = models.DateField(null=True, blank=True)
    first_meal_on = models.DateField(null=True, blank=True)
    mark = models.CharField(max_length=40, blank=True, help_text="what is written on the shell")
    on_top = models.BooleanField(default=False, help_text="lies on other eggs")
    first_guess = models.CharField(max_length=200, blank=True, help_text="as spoken at the cut, before any reckoning")
    across = models.FloatField(default=0.5, help_text="place in the box, 0 left to 1 right")
    down = models.FloatField(default=0.5, help_text="place in the box, 0 far to 1 near")
    note = models.TextField(blank=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["clutch", "number"], name="one_egg_of_a_number")]

    def __str__(self) -> str:
        return self.kept_as.name if self.clutch.elsewhere and self.kept_as else f"{self.clutch.code}, egg {self.number}"

    @property
    def words(self) -> str:
        """What it is called in a sentence: the egg of its clutch, or the name of an animal whose clutch nobody here has seen."""
        return str(self) if self.clutch.elsewhere else f"egg {self.number} of {self.clutch.code}"

    @property
    def record(self) -> Clutch | Animal:
        """In whose record its changes stand: its clutch's, or its own as an animal where nobody here has seen the clutch."""
        return self.kept_as if self.clutch.elsewhere and self.kept_as else self.clutch

    @property
    def code(self) -> str:
        """The hatchling's ID: year, clutch, egg; an animal's own where nobody here has seen its clutch."""
        if self.clutch.elsewhere:
            return self.kept_as.code if self.kept_as else ""
        laid = self.clutch.laid_on
        return (
            f"{laid:%y}-{self.clutch.code.replace('-', '')}-{self.number}"
            if laid
            else f"{self.clutch.code}-{self.number}"
        )

    @property
    def last_weight(self) -> Weighing | None:
        """The latest weight, if any: one query."""
        return self.weighings.last()

    @property
    def is_open(self) -> bool:
        """Is there a hatchling to look at?"""
        return self.state in (self.State.PIPPED, self.State.OPEN, self.State.WRAPPED, self.State.OUT)

    def stage_on(self, day: date) -> str:
        """How old the hatchling was on a day, as far as its days are known; else as it is now."""
        known = ((self.shed_on, Stage.SHED), (self.blue_on, Stage.BLUE), (self.out_on, Stage.WET))
        reached = next((stage for since, stage in known if since and since <= day), None)
        if reached == Stage.SHED and self.stage in (Stage.MONTHS, Stage.ADULT):
            return self.stage
        return reached or (Stage.EGG if any(since for since, _ in known) else self.stage)

    @property
    def is_shut(self) -> bool:
        """May there still be one?"""
        return self.state in (self.State.SHUT, self.State.DENTED, self.State.MOULDY)


class EggEvent(models.Model):
    """Something that happened to an egg or hatchling, with its day: a change of state, a death with what was found, a meal."""

    class Kind(models.TextChoices):
        """What happened."""

        STATE = "state"
        MEAL = "meal"
        REFUSED = "refused"
        SHED = "shed"
        AILING = "ailing"
        WELL = "well", "well again"
        NOTE = "note"

    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, related_name="events")
    kind = models.CharField(max_length=10, choices=Kind)
    value = models.CharField(max_length=40, blank=True, help_text="the state, or what was eaten")
    on = models.DateField()
    note = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["on", "pk"]

    @property
    def words(self) -> str:
        """What happened, in words: "refused rat pup"."""
        states: dict[str, str] = dict(Egg.State.choices)
        value = states.get(self.value, self.value).lower() if self.kind == self.Kind.STATE else self.value
        return " ".join(filter(None, (SAID_OF.get(self.kind, ""), value, self.note)))


SAID_OF: dict[str, str] = {
    EggEvent.Kind.MEAL: "took",
    EggEvent.Kind.REFUSED: "refused",
    EggEvent.Kind.SHED: "shed",
    EggEvent.Kind.AILING: "not sound:",
    EggEvent.Kind.WELL: "well again",
}


class Weighing(models.Model):
    """A weight of an animal, an egg or a hatchling."""

    class Source(models.TextChoices):
        """Where the figure comes from."""

        TYPED = "typed"
        SCALE = "scale", "scale (simulated)"

    animal = models.ForeignKey(Animal, on_delete=models.CASCADE, null=True, blank=True, related_name="weighings")
    egg = models.ForeignKey(Egg, on_delete=models.CASCADE, null=True, blank=True, related_name="weighings")
    grams = models.FloatField()
    on = models.DateField()
    source = models.CharField(max_length=10, choices=Source, default=Source.TYPED)

    class Meta:
        ordering = ["on", "pk"]
        constraints = [
            models.CheckConstraint(condition=models.Q(grams__gt=0), name="a_weight_is_above_nothing"),
            models.CheckConstraint(
                condition=models.Q(animal__isnull=True) ^ models.Q(egg__isnull=True), name="a_weight_of_one_thing"
            ),
        ]
