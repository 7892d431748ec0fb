"""A clutch that is there already, entered at once: laid, open or hatched, of this season or an earlier one."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from uuid import uuid4

from django.contrib.auth.models import AbstractBaseUser
from django.utils import timezone

from eyot_core.hatchery.days import SHED_AFTER_DAYS
from eyot_core.wording.statements import Statement

from eyot.animals.lines import line_read
from eyot.animals.parent_actions import parent_typed
from eyot.bench.actions import OnGene, make_call
from eyot.bench.models import CalledGene
from eyot.bench.siblings import judged
from eyot.collection.history import Recording, recording, subject_of
from eyot.collection.models import Collection, Sex
from eyot.season.models import Clutch, ClutchSire, Egg, EggEvent, Stage
from eyot.season.pairing_actions import CODE, MOST_EGGS, place_in_box
from eyot.season.queries import clutch_of
from eyot.shared.refusal import Refused
from eyot.shared.units import long_day

SHUT, OPEN, OUT, SHED = "shut", "open", "out", "shed"
STANDINGS = (
    (SHUT, "all are shut, in the incubator"),
    (OPEN, "some are open, still in the egg"),
    (OUT, "they are out, not shed yet"),
    (SHED, "they have shed"),
)
"""How far a clutch may be when it is entered."""
LONGEST_DAYS = 100
"""From the laying to the first shed."""
COUNTED = re.compile(r"(\d{1,2})\s*[x×]\s+(.+)")


@dataclass(frozen=True)
class Running:
    """What is known of a clutch that is there already. ``dam``, ``sire``: an animal's name here, or a line for one that lives
    elsewhere; ``sire`` empty: not known. ``hatched``: how many are open or out, 0 for as many as there are ``results``, or all
    sound eggs; ``on``: cut or out since when; ``shed_on``: where not known, reckoned from it. ``results``: a line of genes for each
    hatchling, in the order of the eggs, ``2x`` before one that came twice; empty where the calls follow later."""

    code: str
    dam: str
    sire: str
    laid_on: date | None
    eggs: int
    slugs: int
    standing: str
    hatched: int = 0
    on: date | None = None
    shed_on: date | None = None
    results: str = ""

    @property
    def lines(self) -> list[str]:
        """The results, one line a hatchling."""
        counted = (COUNTED.fullmatch(line) or line for line in filter(None, map(str.strip, self.results.splitlines())))
        return [
            line
            for found in counted
            for line in ([found] if isinstance(found, str) else [found[2]] * min(int(found[1]), MOST_EGGS + 1))
        ]

    @property
    def came_out(self) -> int:
        """How many eggs are open or out."""
        return 0 if self.standing == SHUT else self.hatched or len(self.lines) or self.eggs

    def day_of_shed(self, today: date) -> date | None:
        """When they shed; where nobody said so, the usual days after they came out."""
        if self.standing != SHED or self.on is None:
            return None
        return self.shed_on or min(self.on + timedelta(days=SHED_AFTER_DAYS), today)


def enter_running(collection: Collection, member: AbstractBaseUser, given: Running, at: datetime) -> Clutch:
    """Enters a clutch with its eggs and parents as one change. :class:`Refused`, with nothing entered, where it can't be so."""
    code = given.code.strip().upper()
    _check(collection, code, given, timezone.localdate(at))
    with recording(collection, member, at, f"{code} entered as it stands", "") as record:
        dam = parent_typed(record, collection, given.dam, Sex.FEMALE, "dam")
        sire = parent_typed(record, collection, given.sire, Sex.MALE, "sire") if given.sire.strip() else None
        if dam == sire:
            raise Refused(f"{dam.name} can't be dam and sire at once. Nothing was entered.", field="sire")
        days = _days(given, timezone.localdate(at))
        clutch = record.add(Clutch(collection=collection, code=code, dam=dam, laid_on=given.laid_on, **days))
        record.subject = subject_of(clutch)
        if sire:
            record.add(ClutchSire(clutch=clutch, sire=sire))
        _lay(record, clutch, given, days.get("shed_on"))
        if given.lines:
            _call(record, clutch_of(collection, code), member, given.lines, at)
    return clutch


def _check(collection: Collection, code: str, given: Running, today: date) -> None:
    for words, field in (*_of_code(collection, code), *_of_days(given, today), *_of_eggs(given)):
        raise Refused(f"{words} Nothing was entered.", field=field)


def _of_code(collection: Collection, code: str) -> Iterator[tuple[str, str]]:
    """What is wrong with a code: words, and the field that they are about."""
    if not CODE.fullmatch(code):
        yield f"A code has letters, digits and hyphens, up to 20, not “{code}”.", "code"
    elif Clutch.everything.filter(collection=collection, code=code).exists():
        yield f"There is a {code} already.", "code"


def _of_days(given: Running, today: date) -> Iterator[tuple[str, str]]:
    if given.laid_on is None:
        yield "Say on which day it was laid; about will do.", "laid_on"
    elif given.on is None and given.standing in (OUT, SHED):
        yield "Say since when they are out; about will do. Meals and sheds are counted from it.", "on"
    elif given.laid_on > today:
        yield f"{long_day(given.laid_on)} lies ahead.", "laid_on"
    elif given.on and not given.laid_on <= given.on <= today:
        yield f"{long_day(given.on)} lies before the laying or ahead.", "on"
    elif given.on and (given.on - given.laid_on).days > LONGEST_DAYS:
        yield f"From the laying to {long_day(given.on)} are more than {LONGEST_DAYS} days: one of them is wrong.", "on"
    elif given.shed_on and given.standing != SHED:
        yield "They have a day of the first shed, but are not said to have shed.", "shed_on"
    elif given.shed_on and given.on and not given.on <= given.shed_on <= today:
        yield f"{long_day(given.shed_on)} lies before they came out, or ahead.", "shed_on"


def _of_eggs(given: Running) -> Iterator[tuple[str, str]]:
    if given.eggs + given.slugs < 1:
        yield "A laying has at least one egg or slug.", "eggs"
    if given.eggs + given.slugs > MOST_EGGS:
        yield f"At most {MOST_EGGS} eggs are taken, for clutches put together.", "eggs"
    if given.standing not in dict(STANDINGS):
        yield "Say how far the clutch is.", "standing"
    if (given.hatched or given.came_out) > given.eggs:
        yield f"{given.hatched or given.came_out} hatchlings of {given.eggs} sound eggs can't be.", "hatched"
    if given.lines and given.standing == SHUT:
        yield "There are results, but all eggs are said to be shut.", "results"
    if len(given.lines) > given.came_out:
        yield f"There are {len(given.lines)} results for {given.came_out} hatchlings.", "results"


def _days(given: Running, today: date) -> dict[str, date | None]:
    """The clutch's own days, as far as it has come."""
    if given.standing == OPEN:
        return {"cut_on": given.on}
    if given.standing in (OUT, SHED):
        return {"out_on": given.on, "shed_on": given.day_of_shed(today)}
    return {}


def _lay(record: Recording, clutch: Clutch, given: Running, shed_on: date | None) -> None:
    """The eggs, sound ones first; of these the first are open or out, the others stay shut, or did not hatch."""
    on = given.on or given.laid_on
    assert on is not None
    for number in range(1, given.eggs + given.slugs + 1):
        across, down = place_in_box(number, given.eggs + given.slugs)
        egg = Egg(clutch=clutch, number=number, across=across, down=down, state=_state(given, number))
        if egg.state == Egg.State.OUT:
            egg.stage = Stage.SHED if given.standing == SHED else Stage.WET
            egg.out_on, egg.shed_on = given.on, shed_on
        record.add(egg)
        record.add(EggEvent(egg=egg, kind=EggEvent.Kind.STATE, value=egg.state, on=on))


def _state(given: Running, number: int) -> str:
    if number > given.eggs:
        return Egg.State.SLUG
    if number <= given.came_out:
        return Egg.State.OPEN if given.standing == OPEN else Egg.State.OUT
    return Egg.State.SHUT if given.standing in (SHUT, OPEN) else Egg.State.DEAD


def _call(record: Recording, clutch: Clutch, member: AbstractBaseUser, lines: list[str], at: datetime) -> None:
    """The results as calls, hatchling by hatchling; with each the chances that its parents give it."""
    judgement = judged(clutch)
    given = set(judgement.model.pairing.given_genes)
    for egg, line in zip(clutch.eggs.all(), lines, strict=False):
        words = f"Result {egg.number}, “{line}”"
        read = line_read(clutch.collection, line)
        if read.left_open:
            raise Refused(f"{words}: {read.left_open} Nothing was entered.", field="results")
        said = {gene: OnGene(CalledGene.Verdict.NOT, 1) for gene in sorted(given)}
        said |= {one.gene: _verdict(one, from_parents=one.gene in given) for one in read.statements}
        egg.clutch = clutch
        try:
            call = make_call(judgement, egg, member, said, egg.stage, f"Entered with the clutch: {line}", uuid4(), at)
        except Refused as reason:
            told = str(reason).replace("No call was made; your looks stand.", "Nothing was entered.")
            raise Refused(f"{words}: {told}", field="results") from None
        for row in (call, *call.genes.all()):
            record.added(row)
        if read.sex:
            record.change(egg, sex=read.sex)


def _verdict(one: Statement, *, from_parents: bool) -> OnGene:
    """What a statement of a line says as a verdict: what is in doubt, or not known of the parents, is possible."""
    if not from_parents:
        return OnGene(CalledGene.Verdict.POSSIBLE, one.copies, reason="the keeper's own result, with the clutch")
    verdict = CalledGene.Verdict.SURE if one.chance == "1" else CalledGene.Verdict.POSSIBLE
    return OnGene(verdict, one.copies, maybe_two=bool(one.two_chance))
