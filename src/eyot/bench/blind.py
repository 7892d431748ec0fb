"""Blind first: nobody is talked into anything. Whoever looks blind sees no chance and no other's answer before his own first guess."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser

from eyot_core.wording.line import understood

from eyot.bench.judgement import Judgement, counting, plain, trait_words
from eyot.bench.look_rows import LookRow
from eyot.bench.models import FirstGuess
from eyot.collection.catalogue import catalogue_of, lookup
from eyot.collection.models import Collection, Membership
from eyot.season.models import Egg, Stage
from eyot.shared.refusal import Refused


def looks_blind(collection: Collection, member: AbstractBaseUser) -> bool:
    """Has this member chosen to look blind first? One query."""
    return Membership.objects.filter(collection=collection, user_id=member.pk, blind_first=True).exists()


@dataclass(frozen=True)
class Sight:
    """What one member may see of a hatchling at a stage. ``chosen``: he looks blind first; ``blind``: and has not guessed yet."""

    chosen: bool
    blind: bool

    def rows(self, rows: Iterable[LookRow]) -> list[LookRow]:
        """Looks to be answered: before the guess without what others answered."""
        return [replace(row, others=()) for row in rows] if self.blind else list(rows)


def sight_of(egg: Egg, member: AbstractBaseUser, stage: str) -> Sight:
    """The one place where it is decided what is kept from a member: two queries at most."""
    chosen = looks_blind(egg.clutch.collection, member)
    guessed = chosen and FirstGuess.objects.filter(egg=egg, by_id=member.pk, stage=stage).exists()
    return Sight(chosen, chosen and not guessed)


def switch_blind(collection: Collection, member: AbstractBaseUser) -> None:
    """From blind to seeing, or back; each for himself."""
    own = Membership.objects.get(collection=collection, user_id=member.pk)
    own.blind_first = not own.blind_first
    own.save(update_fields=["blind_first"])


def guess_blind(egg: Egg, member: AbstractBaseUser, stage: str, text: str, at: datetime) -> FirstGuess:
    """Keeps a member's first guess at a stage; a later one does not replace it. :class:`Refused` for an empty one."""
    words = " ".join(text.split())[:200]
    if not words:
        raise Refused("A first guess needs a word, even if it is “no idea”. Nothing was changed.")
    if stage not in Stage.values or not egg.is_open:
        raise Refused("There is nothing to guess at yet. Nothing was changed.")
    guess, _ = FirstGuess.objects.get_or_create(
        egg=egg, by_id=member.pk, stage=stage, defaults={"text": words, "at": at}
    )
    return guess


@dataclass(frozen=True)
class LookByEyes:
    """One look as each person answered it, in the order of the persons; empty where somebody did not."""

    name: str
    stage: str
    levels: list[str]
    agree: bool


@dataclass(frozen=True)
class Eyes:
    """Several persons' answers side by side: who, their guesses, looks that more than one answered, and how many agree."""

    people: list[str]
    guesses: list[str]
    looks: list[LookByEyes]
    agreed: int
    differences: list[str]


def eyes_on(judgement: Judgement, egg: Egg) -> Eyes:
    """All that several persons answered of one hatchling, laid side by side."""
    looks = counting(judgement.all_looks.get(egg.pk, []))
    guesses = list(egg.first_guesses.select_related("by"))
    people = sorted({look.seen_by.get_username() for look in looks} | {guess.by.get_username() for guess in guesses})
    by_question: dict[tuple[str, str], dict[str, str]] = defaultdict(dict)
    for look in looks:
        by_question[look.trait, look.stage][look.seen_by.get_username()] = look.level
    rows = [
        LookByEyes(
            str(trait_words(trait)["name"]),
            Stage(stage).label,
            [plain(levels.get(one, "")) for one in people],
            len(set(levels.values())) == 1,
        )
        for (trait, stage), levels in by_question.items()
        if len(levels) > 1
    ]
    latest = {guess.by.get_username(): guess.text for guess in guesses}
    return Eyes(
        people,
        [latest.get(one, "") for one in people],
        rows,
        sum(row.agree for row in rows),
        _differences(egg.clutch.collection, latest),
    )


def _differences(collection: Collection, guesses: dict[str, str]) -> list[str]:
    """Genes that some guessed and others did not, a sentence each."""
    names = lookup(catalogue_of(collection))
    read = {who: dict(understood(names, text).genes) for who, text in guesses.items()}
    differences = []
    for gene in dict.fromkeys(gene for genes in read.values() for gene in genes):
        yes, no = [who for who in read if gene in read[who]], [who for who in read if gene not in read[who]]
        if no:
            differences.append(f"{names.naming.gene(gene)}: guessed by {' and '.join(yes)}, not by {' and '.join(no)}.")
    return differences
