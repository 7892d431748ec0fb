"""How each hatchling stands: what becomes of it, its label, and whether it is ready to go. A fixed number of queries for any number."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from functools import cached_property

from django.db.models import OuterRef, Q, QuerySet, Subquery, Value
from django.db.models.functions import Coalesce

from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import written

from eyot.bench.models import Call, CalledGene
from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.homes.models import Fate, Issued, OwnLabel
from eyot.photos.models import Photo
from eyot.season.models import Egg, EggEvent, Weighing

SHOWN = (CalledGene.Verdict.SURE, CalledGene.Verdict.LIKELY, CalledGene.Verdict.POSSIBLE)


@dataclass(frozen=True)
class Kept:
    """One hatchling, from its rows as read before. ``photo``: the newest from above."""

    egg: Egg
    collection: Collection
    photo: Photo | None = None

    @cached_property
    def fate(self) -> Fate | None:
        """The latest; None while nothing is decided."""
        return max(self.egg.fates.all(), key=lambda row: (row.made_at, row.pk), default=None)

    @property
    def name(self) -> str:
        """What it is called in lists: its ID, or its name where it has none."""
        return self.egg.code or (self.egg.kept_as.name if self.egg.kept_as else str(self.egg))

    @property
    def drawn(self) -> str:
        """What its call shows, as drawings of combinations are asked for; empty without a call."""
        if self.call is None:
            return ""
        shown = [[row.gene] * row.copies for row in self.call.genes.all() if row.verdict in SHOWN[:2]]
        return ".".join(gene for genes in shown for gene in genes) or "normal"

    @property
    def state(self) -> str:
        """What becomes of it: where nothing is said, one that hatched here and is an animal of its own by now is held back."""
        if self.fate:
            return self.fate.state
        return Fate.State.HELD if self.egg.kept_as and not self.egg.clutch.elsewhere else Fate.State.OPEN

    @property
    def died(self) -> bool:
        """Does its record say that it died?"""
        return self.egg.state == Egg.State.DEAD

    @property
    def state_words(self) -> str:
        """The same in words."""
        return "died" if self.died else Fate.State(self.state).label

    @cached_property
    def call(self) -> Call | None:
        """The latest call."""
        return max(self.egg.calls.all(), key=lambda row: (row.made_at, row.pk), default=None)

    @cached_property
    def own_label(self) -> OwnLabel | None:
        """What the keeper wrote last."""
        return max(self.egg.own_labels.all(), key=lambda row: (row.made_at, row.pk), default=None)

    @property
    def label(self) -> str:
        """What stands on its label: the keeper's words, else the call's; of an animal that was never called here its record's. Empty where
        there is none of them."""
        own = self.own_label
        return own.text if own and own.text else self.call.label if self.call else self.stated

    @cached_property
    def stated(self) -> str:
        """What is stated of the animal that it is by now, as a line of genes; empty where there is none, or nothing is stated."""
        if self.egg.kept_as is None:
            return ""
        lookup = Lookup(catalogue_of(self.collection))
        return ", ".join(written(gene.as_statement(), lookup) for gene in self.egg.kept_as.genes.all())

    @property
    def price(self) -> Decimal | None:
        """What it costs, where the keeper says so."""
        return self.own_label.price if self.own_label else None

    @cached_property
    def genes(self) -> dict[str, str]:
        """The genes of the call that are sure, likely or possible, with which."""
        return {row.gene: row.verdict for row in self.call.genes.all() if row.verdict in SHOWN} if self.call else {}

    @cached_property
    def ailing(self) -> str:
        """What is not sound with it by the record; empty where nothing is."""
        told = [row for row in self.egg.events.all() if row.kind in (EggEvent.Kind.AILING, EggEvent.Kind.WELL)]
        last = max(told, key=lambda row: (row.on, row.pk), default=None)
        return last.note or "not sound" if last and last.kind == EggEvent.Kind.AILING else ""

    @cached_property
    def meals(self) -> list[EggEvent]:
        """Meals that were taken."""
        return [row for row in self.egg.events.all() if row.kind == EggEvent.Kind.MEAL]

    @cached_property
    def refused_since(self) -> int:
        """How many meals it has refused since the last that it took."""
        last = max((row.on for row in self.meals), default=date.min)
        return sum(row.kind == EggEvent.Kind.REFUSED and row.on > last for row in self.egg.events.all())

    @cached_property
    def sheds(self) -> int:
        """How often it has shed."""
        return bool(self.egg.shed_on) + sum(row.kind == EggEvent.Kind.SHED for row in self.egg.events.all())

    @cached_property
    def weight(self) -> Weighing | None:
        """The latest weight."""
        return max(self.egg.weighings.all(), key=lambda row: (row.on, row.pk), default=None)

    @cached_property
    def lacks(self) -> list[str]:
        """What is missing for it to leave, by the keeper's own rule."""
        rule, lacking = self.collection, []
        if len(self.meals) < rule.ready_meals:
            lacking.append(_counted(rule.ready_meals - len(self.meals), "meal"))
        if self.sheds < rule.ready_sheds:
            lacking.append(_counted(rule.ready_sheds - self.sheds, "shed"))
        if rule.ready_grams and (self.weight is None or self.weight.grams < rule.ready_grams):
            lacking.append(
                f"{rule.ready_grams - self.weight.grams:g} g" if self.weight else f"a weight of {rule.ready_grams} g"
            )
        return lacking

    @property
    def not_yet(self) -> str:
        """What keeps it here, in words; empty where it may leave."""
        ailing = f"not sound: {self.ailing}" if self.ailing else ""
        return "; ".join(filter(None, (f"{', '.join(self.lacks)} to go" if self.lacks else "", ailing)))

    @property
    def is_ready(self) -> bool:
        """May it leave, by the keeper's rule?"""
        return not self.died and not self.not_yet

    @property
    def is_here(self) -> bool:
        """Is it alive and with the keeper?"""
        return not self.died and not (self.fate and self.fate.is_gone)

    @cached_property
    def outdated(self) -> list[Issued]:
        """Where words stand that the call no longer holds, and nobody has said that it is dealt with."""
        if self.call is None:
            return []
        return [
            row
            for row in self.egg.issued.all()
            if row.settled_at is None and row.call_id != self.call.pk and row.call and row.call.label != self.call.label
        ]


def _counted(count: int, word: str) -> str:
    return f"{count} {word}{'' if count == 1 else 's'}"


def hatchlings_of(collection: Collection) -> QuerySet[Egg]:
    """All that are out of the egg or were, with whatever lies with them."""
    eggs = Egg.objects.filter(clutch__collection=collection).exclude(clutch__elsewhere=True, kept_as=None)
    hatched = Q(state=Egg.State.OUT) | Q(state=Egg.State.DEAD, out_on__isnull=False)
    return (
        eggs.filter(hatched)
        .select_related("clutch__collection", "clutch__dam", "kept_as")
        .prefetch_related(
            "events",
            "weighings",
            "fates",
            "own_labels",
            "calls__genes",
            "issued__call",
            "proofs",
            "kept_as__genes",
            "clutch__clutch_sires__sire",
        )
        .order_by("-clutch__laid_on", "clutch__code", "number")
    )


def kept_rows(collection: Collection, eggs: Iterable[Egg]) -> list[Kept]:
    """Hatchlings with their newest photos: one more query."""
    eggs = list(eggs)
    photos = Photo.objects.filter(egg__in=eggs, kind=Photo.Kind.BACK, sizes_done__gt=0)
    newest = {photo.egg_id: photo for photo in photos.order_by("egg_id", "-taken_at").distinct("egg_id")}
    return [Kept(egg, collection, newest.get(egg.pk)) for egg in eggs]


def kept_here(collection: Collection) -> list[Kept]:
    """Those that are alive and with the keeper: what is gone is not read."""
    fates = Fate.objects.filter(egg=OuterRef("pk")).order_by("-made_at", "-pk").values("state")[:1]
    eggs = hatchlings_of(collection).exclude(state=Egg.State.DEAD)
    eggs = eggs.annotate(last_fate=Coalesce(Subquery(fates), Value(Fate.State.OPEN.value)))
    return kept_rows(collection, eggs.exclude(last_fate__in=(Fate.State.SOLD, Fate.State.GIVEN)))


def all_kept(collection: Collection) -> list[Kept]:
    """All hatchlings of a collection."""
    return kept_rows(collection, hatchlings_of(collection))


def not_to_be_sold(row: Kept, names: dict[str, str]) -> list[str]:
    """Genes of its call that may not be sold where the keeper lives, by name."""
    return [names.get(gene, gene) for gene in row.genes if gene in row.collection.not_sold]


def chosen(rows: Sequence[Kept], numbers: Sequence[str]) -> list[Kept]:
    """Those of some hatchlings that were ticked, by the keys of their eggs."""
    wanted = set(numbers)
    return [row for row in rows if str(row.egg.pk) in wanted]
