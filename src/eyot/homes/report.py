"""The report of a season: clutches, eggs, losses with what was found, what came against what was expected, how calls stand and how last
year's held, what became of the hatchlings, and what the next season needs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

from eyot_core.hatchery.scoring import share
from eyot_core.wording.chances import percent

from eyot.bench.closing import CameRow, came_rows, offers
from eyot.bench.models import Call, CalledGene, Proof
from eyot.bench.siblings import filmstrip, judged
from eyot.collection.models import Collection, Sex
from eyot.homes.models import Fate
from eyot.homes.standing import Kept, hatchlings_of, kept_rows
from eyot.season.models import Clutch, Egg, EggEvent
from eyot.season.queries import clutch_of
from eyot.season.record import log_of
from eyot.shared.units import temperature

VERDICTS = (CalledGene.Verdict.SURE, CalledGene.Verdict.LIKELY, CalledGene.Verdict.POSSIBLE)
LOST = (Egg.State.SLUG, Egg.State.DEAD)


@dataclass(frozen=True)
class Loss:
    """An egg or hatchling that was lost, when, and what was found."""

    egg: Egg
    what: str
    on: date | None
    found: str


@dataclass(frozen=True)
class ClutchRow:
    """One clutch of the season. ``in_the_egg``: neither out nor lost; ``days``: from the laying to the first that was out; ``warmth``: of
    its log, in sentences."""

    clutch: Clutch
    eggs: int
    slugs: int
    died: int
    out: int
    in_the_egg: int
    days: int | None
    warmth: list[str]
    came: list[CameRow]
    turned_out: list[str]


@dataclass(frozen=True)
class VerdictRow:
    """Calls of one sureness: of this season how many, and of the season before how many of those that were proven since were right."""

    verdict: str
    count: int
    before: str


@dataclass(frozen=True)
class Report:
    """A season's report."""

    year: int
    clutches: list[ClutchRow]
    losses: list[Loss]
    verdicts: list[VerdictRow]
    uncalled: int
    fates: list[tuple[str, int]]
    held: list[Kept]
    earned: Decimal
    needs: list[str]

    @property
    def eggs(self) -> int:
        """All eggs of the season."""
        return sum(row.eggs for row in self.clutches)

    @property
    def out(self) -> int:
        """All that left the egg."""
        return sum(row.out for row in self.clutches)


def report_of(collection: Collection, year: int, now: datetime) -> Report:
    """The report of the clutches that were laid in a year."""
    codes = collection.clutches.filter(laid_on__year=year).order_by("laid_on", "code").values_list("code", flat=True)
    clutches = [clutch_of(collection, code) for code in codes]
    kept = kept_rows(collection, hatchlings_of(collection).filter(clutch__in=clutches))
    states = Counter(row.state_words for row in kept)
    sold = [row.fate.price for row in kept if row.fate and row.fate.state == Fate.State.SOLD and row.fate.price]
    return Report(
        year,
        [_clutch_row(clutch, now) for clutch in clutches],
        _losses(clutches),
        _verdicts(collection, year),
        sum(row.call is None and row.is_here for row in kept),
        sorted(states.items()),
        [row for row in kept if row.state == Fate.State.HELD or (row.egg.kept_as and row.egg.kept_as.is_here)],
        sum(sold, Decimal(0)),
        _needs(collection, kept),
    )


def _clutch_row(clutch: Clutch, now: datetime) -> ClutchRow:
    eggs = list(clutch.eggs.all())
    states = Counter(egg.state for egg in eggs)
    log = log_of(clutch, now)
    outs = [egg.out_on for egg in eggs if egg.out_on]
    came: list[CameRow] = []
    turned: list[str] = []
    if outs:
        judgement = judged(clutch)
        came = came_rows(judgement, filmstrip(judgement, clutch))
        turned = [f"{one.animal.name}: {one.before} → {one.after}, {one.reason}" for one in offers(judgement, clutch)]
    assert clutch.laid_on
    return ClutchRow(
        clutch,
        len(eggs),
        states[Egg.State.SLUG],
        states[Egg.State.DEAD],
        len(outs),
        sum(egg.out_on is None and egg.state not in (*LOST, Egg.State.OUT) for egg in eggs),
        (min(outs) - clutch.laid_on).days if outs else None,
        log.sentences if log else [f"mean {temperature(clutch.mean_c)}"] if clutch.mean_c else [],
        came,
        turned,
    )


def _losses(clutches: Sequence[Clutch]) -> list[Loss]:
    """Slugs and deaths, each with its day and what was found: one query."""
    lost = [egg for clutch in clutches for egg in clutch.eggs.all() if egg.state in LOST]
    events = EggEvent.objects.filter(egg__in=lost, kind=EggEvent.Kind.STATE, value__in=LOST).order_by("on", "pk")
    last = {event.egg_id: event for event in events}
    by_key = {egg.pk: clutch for clutch in clutches for egg in clutch.eggs.all()}
    told = []
    for egg in lost:
        egg.clutch = by_key[egg.pk]
        event = last.get(egg.pk)
        what = "slug" if egg.state == Egg.State.SLUG else "died as a hatchling" if egg.out_on else "died in the egg"
        told.append(Loss(egg, what, event.on if event else None, event.note if event else ""))
    return told


def _verdicts(collection: Collection, year: int) -> list[VerdictRow]:
    """The last calls of this year's hatchlings by sureness, and how those of the year before held: three queries."""
    now, before = (_last_calls(collection, one) for one in (year, year - 1))
    proofs = {
        (one.egg_id, one.gene): one.copies
        for one in Proof.objects.filter(egg__clutch__collection=collection, egg__clutch__laid_on__year=year - 1)
    }
    rows = []
    for verdict in VERDICTS:
        count = sum(one.verdict == verdict for call in now for one in call.genes.all())
        held = [
            proofs[call.egg_id, one.gene] >= one.copies
            for call in before
            for one in call.genes.all()
            if one.verdict == verdict and (call.egg_id, one.gene) in proofs
        ]
        rows.append(VerdictRow(CalledGene.Verdict(verdict).label.lower(), count, _held_words(held)))
    return rows


def _held_words(held: Sequence[bool]) -> str:
    if not held:
        return "none proven since"
    right = share(sum(held), len(held))
    return f"{sum(held)} of {len(held)} proven right ({percent(right.low)} to {percent(right.high)})"


def _last_calls(collection: Collection, year: int) -> list[Call]:
    calls = Call.objects.filter(egg__clutch__collection=collection, egg__clutch__laid_on__year=year)
    return list(calls.order_by("egg_id", "-made_at", "-pk").distinct("egg_id").prefetch_related("genes"))


def _needs(collection: Collection, kept: Sequence[Kept]) -> list[str]:
    """What the next season needs, from what is here."""
    here = [row for row in kept if row.is_here]
    needs = []
    if undecided := [row for row in here if row.state == Fate.State.OPEN]:
        needs.append(f"A decision on {len(undecided)} hatchling{'' if len(undecided) == 1 else 's'}.")
    if waiting := [row for row in here if row.state in (Fate.State.LISTED, Fate.State.RESERVED) and not row.is_ready]:
        names = ", ".join(row.name for row in waiting[:6])
        needs.append(f"Meals, sheds or weight before they may leave: {names}{' …' if len(waiting) > 6 else ''}.")
    animals = collection.animals.filter(archived_on=None, elsewhere=False).prefetch_related("weighings")
    for sex, least, word in ((Sex.FEMALE, collection.dam_least_g, "dam"), (Sex.MALE, collection.sire_least_g, "sire")):
        weights = {
            one.name: max(one.weighings.all(), key=lambda row: (row.on, row.pk)).grams
            for one in animals
            if one.sex == sex and one.weighings.all()
        }
        light = sorted(name for name, grams in weights.items() if grams < least)
        ready = len(weights) - len(light)
        needs.append(
            f"{ready} {word}{'' if ready == 1 else 's'} of {least} g and more"
            + (f"; not there yet: {', '.join(light[:8])}{' …' if len(light) > 8 else ''}." if light else ".")
        )
    return needs
