"""Plans found: which pairings, and what to hold back of each, lead to a goal from the animals that are there.

Built up generation by generation from animals as they most likely are: of every pair what could be held back of it that is told by
sight or certain, and brings the goal nearer; the best of each kind go on. What leads to the goal is then followed exactly
(:mod:`eyot_core.generations.plan`), and the plans that are soonest are given, each of another kind.
"""

from __future__ import annotations

from bisect import insort
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import product, zip_longest

from eyot_core.generations.genomes import Genome, Room, Wanted, can_be_told, certain_from, least_copies, told_by_sight
from eyot_core.generations.harm import Harm
from eyot_core.generations.plan import Follower, Outlook, Own, Rules, Step
from eyot_core.genetics.inheritance import FEMALE, MALE

KEPT_OF_A_KIND, KEPT = 3, 60
"""How many ways to an animal of one kind are followed on, and to animals of any kind in a generation."""
FOLLOWED, GIVEN = 100, 5
"""How many plans are followed exactly, and how many are given."""
WITH_BOUGHT, GIVEN_WITH_BOUGHT = 30, 3
"""The same of plans with an animal that is bought, of which each that is given buys another."""
LIKELY = 0.25
"""From which chance on an animal is first taken to be the most useful that it may be, while plans are sought."""
DOUBTS = (0.0, 1.0)
"""By so much of the seasons that an animal's doubtful genes cost it stands back in the order; plans are sought either way, those with
an animal bought the second way only."""
NEVER = 1e9
NOTHING: frozenset[str] = frozenset()
Keep = tuple[dict[str, int], frozenset[str]]
"""Genes with their copies, and which of them a test tells."""


@dataclass(frozen=True)
class Found:
    """A plan with what comes of it; ``bought``: the animal that is bought for it, if one is."""

    steps: tuple[Step, ...]
    outlook: Outlook
    bought: str = ""


@dataclass(frozen=True, eq=False)
class _Piece:
    """An animal that is there, or that could be held back. ``least``: copies that it has for certain; ``steps``: how one comes by it,
    ``soon``: about when it may be paired; ``carries``: genes that it may have; ``bought``: who is bought on the way to it; ``kind``: what
    tells one way to it from another."""

    id: str
    sex: int
    genome: Genome
    least: Mapping[str, int]
    steps: tuple[Step, ...]
    soon: float
    first: int
    carries: frozenset[str]
    bought: str = ""
    kind: tuple[object, ...] = field(default=())


@dataclass
class Search:
    """One search. ``told``: hears what share of it is done. A plan buys one animal at most of those that could be."""

    room: Room
    rules: Rules
    animals: Sequence[Own]
    goal: Wanted
    told: Callable[[float], None] = lambda share: None

    def __post_init__(self) -> None:
        self._fitting: dict[tuple[Genome, Genome, tuple[tuple[str, int], ...], int | None], tuple[float, Genome]] = {}
        self._number = 0
        self._asked: dict[tuple[object, ...], list[Keep]] = {}
        self._forbidden: dict[tuple[frozenset[str], frozenset[str]], bool] = {}
        self._harm = Harm.of(self.room.catalogue)
        self._by_id = {animal.id: animal for animal in self.animals}

    def plans(self) -> list[Found]:
        """The plans that are soonest, each of another kind; after them those with an animal bought that are sooner than all with what is
        here. None where nothing leads there."""
        sought = [self._sought(doubt, 0.25 * number) for number, doubt in enumerate(DOUBTS)]
        ends = [end for both in zip_longest(*sought) for end in both if end]
        own = self._followed([steps for _, steps, bought in ends if not bought], 0.5, FOLLOWED)[:GIVEN]
        more: dict[frozenset[str], Found] = {}
        for one in self._followed([steps for _, steps, bought in ends if bought], 0.9, WITH_BOUGHT):
            if not own or soonest(one) < soonest(own[0]):
                more.setdefault(self._by_id[one.bought].carries, one)
        return own + list(more.values())[:GIVEN_WITH_BOUGHT]

    def _sought(self, doubt: float, done: float) -> list[tuple[float, tuple[Step, ...], str]]:
        """Ways to the goal, about the soonest first: when about it is there, the steps, and who is bought."""
        asked = [animal for animal in self.animals if doubt or not animal.is_bought]
        layers = [self._useful([piece for animal in asked for piece in self._own(animal, doubt)])]
        ends: list[tuple[float, tuple[Step, ...], str]] = []
        for depth in range(1, self.rules.generations + 1):
            ends += self._ends(layers, depth)
            if depth < self.rules.generations and depth < self.rules.places:
                layers.append(self._grown(layers, depth))
            self.told(done + 0.25 * depth / self.rules.generations)
        return sorted(ends, key=lambda end: end[0])

    def _own(self, animal: Own, doubt: float) -> list[_Piece]:
        """An animal as the most useful that it may well be, and as what it most likely is."""
        least = {gene: least_copies(animal.genomes, self.room, gene) for gene in self.goal.genes}
        taken = dict.fromkeys((self._useful_genome(animal), max(animal.genomes, key=lambda one: animal.genomes[one])))
        bought = animal.id if animal.is_bought else ""
        return [
            _Piece(
                *(animal.id, animal.sex, genome, least, ()),
                animal.ready + doubt * (1 / animal.genomes[genome] - 1),
                *(animal.ready, animal.carries, bought, (genome,)),
            )
            for genome in taken
        ]

    def _useful_genome(self, animal: Own) -> Genome:
        return max(
            animal.genomes, key=lambda one: (animal.genomes[one] >= LIKELY, self._worth_of(one), animal.genomes[one])
        )

    def _worth_of(self, genome: Genome) -> float:
        return sum(min(self.room.copies(genome, gene), copies) / copies for gene, copies in self.goal.genes.items())

    def _useful(self, own: Sequence[_Piece]) -> list[_Piece]:
        """Of animals that are alike the soonest; those that have nothing of the goal last, as partners. All that could be bought."""
        best: dict[tuple[object, ...], list[_Piece]] = {}
        for piece in sorted(own, key=lambda one: (one.soon, one.id)):
            if not piece.bought:
                best.setdefault((piece.sex, piece.genome), []).append(piece)
        kept = [piece for alike in best.values() for piece in alike[:2]]
        kept.sort(key=lambda piece: -self._worth_of(piece.genome))
        return kept[:KEPT] + [piece for piece in own if piece.bought]

    def _pairs(self, layers: Sequence[Sequence[_Piece]], depth: int) -> Iterator[tuple[_Piece, _Piece]]:
        """Dams and sires of whom one at least came in the generation before."""
        newest = layers[depth - 1]
        new = {id(piece) for piece in newest}
        every = [piece for layer in layers[:depth] for piece in layer]
        for one, other in product(newest, every):
            dam, sire = (one, other) if one.sex == FEMALE else (other, one)
            if one.sex == other.sex or (one.bought and other.bought and one.bought != other.bought):
                continue
            if one.sex == MALE and id(other) in new:
                continue  # come by from the other side
            if not self._is_forbidden(dam.carries, sire.carries) and len(_joined(one, other)) < self.rules.places:
                yield dam, sire

    def _is_forbidden(self, dam: frozenset[str], sire: frozenset[str]) -> bool:
        if (dam, sire) not in self._forbidden:
            self._forbidden[dam, sire] = self._harm.forbids(dam, sire)
        return self._forbidden[dam, sire]

    def _ends(self, layers: Sequence[Sequence[_Piece]], depth: int) -> Iterator[tuple[float, tuple[Step, ...], str]]:
        if len(layers) < depth:
            return
        sexes = (FEMALE, MALE) if self.goal.is_pair else (self.goal.sex,)
        for dam, sire in self._pairs(layers, depth):
            chance, _ = self._fits(dam, sire, self.goal)
            if chance <= 0:
                continue
            tested = self._to_test(self.goal.genes, dam, sire)
            before = _joined(dam, sire)
            if tested is not None and len(before) + len(sexes) <= self.rules.places:
                first = max(dam.first, sire.first)
                soon = max(dam.soon, sire.soon) + self._seasons(chance)
                last = [
                    Step(first, dam.id, sire.id, self._name(), Wanted(self.goal.genes, sex), tested) for sex in sexes
                ]
                yield soon, (*before, *last), dam.bought or sire.bought

    def _grown(self, layers: Sequence[Sequence[_Piece]], depth: int) -> list[_Piece]:
        """What could be held back of the pairs of a generation and brings the goal nearer than either parent."""
        best: dict[tuple[object, ...], list[_Piece]] = {}
        for dam, sire in self._pairs(layers, depth):
            before = max(self._told_worth(dam.least), self._told_worth(sire.least))
            for genes, tested in self._keeps(dam, sire):
                worth = self._told_worth(genes)
                if worth == len(self.goal.genes):
                    continue  # it is the goal, whatever its sex
                if worth <= before and not self._joins(genes, dam, sire):
                    continue
                for sex in (FEMALE, MALE):
                    self._put(best, dam, sire, Wanted(genes, sex), tested)
        grown = sorted(
            (piece for pieces in best.values() for piece in pieces),
            key=lambda one: (-self._told_worth(one.least), one.soon),
        )
        own, bought = ([one for one in grown if bool(one.bought) is are_bought] for are_bought in (False, True))
        return own[: 2 * KEPT] + bought[:KEPT]

    def _joins(self, genes: Mapping[str, int], dam: _Piece, sire: _Piece) -> bool:
        """Has it genes of both parents, though no more of them?"""
        return all(any(parent.least.get(gene, 0) < copies for gene, copies in genes.items()) for parent in (dam, sire))

    def _told_worth(self, genes: Mapping[str, int]) -> float:
        return sum(min(genes.get(gene, 0), copies) / copies for gene, copies in self.goal.genes.items())

    def _keeps(self, dam: _Piece, sire: _Piece) -> list[Keep]:
        """What could be asked of a hatchling of a pair; kept for the next time."""
        key = (dam.genome, sire.genome, *dam.least.values(), *sire.least.values())
        if key not in self._asked:
            self._asked[key] = self._keeps_of(dam, sire)
        return self._asked[key]

    def _keeps_of(self, dam: _Piece, sire: _Piece) -> list[Keep]:
        """As much as can be told, as much as costs no luck with recessives, and as much as a test tells."""
        most, easy, open_ = {}, {}, {}
        for gene, copies in self.goal.genes.items():
            parents = [self.room.copies(one.genome, gene) for one in (dam, sire)]
            carried = sum(count > 0 for count in parents)
            certain = certain_from([dam.least[gene], sire.least[gene]], 1)
            if self.room.catalogue.genes[gene].is_recessive:
                if carried == 2 and copies == 2:
                    most[gene] = 2
                if certain:
                    easy[gene] = 1
                    most.setdefault(gene, 1)
                elif carried and self._may_test(gene):
                    open_[gene] = 1
            elif carried:
                most[gene] = (
                    min(copies, carried) if told_by_sight(self.room.catalogue, gene, min(copies, carried)) else 1
                )
                easy[gene] = 1
        keeps = [(most, NOTHING)] if most else []
        if easy and easy != most:
            keeps.append((easy, NOTHING))
        if open_:
            keeps.append((easy | open_, frozenset(open_)))
        return keeps

    def _may_test(self, gene: str) -> bool:
        return self.rules.tests and gene in self.room.catalogue.tested_genes

    def _put(
        self,
        best: dict[tuple[object, ...], list[_Piece]],
        dam: _Piece,
        sire: _Piece,
        keep: Wanted,
        tested: frozenset[str],
    ) -> None:
        """Puts what could be held back of a pair among those of its kind, if it is one of the soonest."""
        chance, genome = self._fits(dam, sire, keep)
        if chance <= 0:
            return
        sex = FEMALE if keep.sex is None else keep.sex
        ready, bought = self.rules.ready_after(sex), dam.bought or sire.bought
        soon = max(dam.soon, sire.soon) + self._seasons(chance) + ready
        kind = (keep.sex, genome, tuple(sorted(keep.genes.items())))
        alike = best.setdefault((*kind, bool(bought)), [])
        if len(alike) == KEPT_OF_A_KIND and alike[-1].soon <= soon:
            return
        first, name = max(dam.first, sire.first), self._name()
        steps = (*_joined(dam, sire), Step(first, dam.id, sire.id, name, keep, tested))
        least = {gene: keep.genes.get(gene, 0) for gene in self.goal.genes}
        carries = dam.carries | sire.carries
        insort(
            alike,
            _Piece(name, sex, genome, least, steps, soon, first + ready, carries, bought, kind),
            key=lambda one: one.soon,
        )
        del alike[KEPT_OF_A_KIND:]

    def _name(self) -> str:
        self._number += 1
        return f"#{self._number}"

    def _fits(self, dam: _Piece, sire: _Piece, keep: Wanted) -> tuple[float, Genome]:
        """The chance that one egg becomes what is wanted, and what it then most likely is."""
        key = (dam.genome, sire.genome, tuple(sorted(keep.genes.items())), keep.sex)
        if key not in self._fitting:
            young = self.room.young(dam.genome, sire.genome)
            fitting: dict[Genome, float] = {}
            for (sex, genome), chance in young.items():
                if self.room.has(genome, sex, keep):
                    fitting[genome] = fitting.get(genome, 0.0) + chance
            likely = max(fitting, key=lambda one: (fitting[one], str(one)), default=())
            self._fitting[key] = (sum(fitting.values()) * self.rules.hatch, likely)
        return self._fitting[key]

    def _seasons(self, chance: float) -> float:
        """How many seasons one waits for it beyond the first, on average."""
        success = 1 - (1 - min(1.0, chance)) ** self.rules.young
        return 1 / success - 1 if success > 0 else NEVER

    def _to_test(self, genes: Mapping[str, int], dam: _Piece, sire: _Piece) -> frozenset[str] | None:
        """Which of some genes a test has to tell; None where one can't be told at all."""
        open_ = [
            gene
            for gene, copies in genes.items()
            if not can_be_told(self.room.catalogue, gene, copies, [dam.least[gene], sire.least[gene]])
        ]
        return frozenset(open_) if all(map(self._may_test, open_)) else None

    def _followed(self, plans: Sequence[tuple[Step, ...]], done: float, most: int) -> list[Found]:
        """What comes of the first of each kind of plan, soonest first; ``done``: the share of the search that lies behind."""
        likely = {animal.id: self._useful_genome(animal) for animal in self.animals}
        found: list[Found] = []
        share = (0.9 if done < 0.9 else 1.0) - done
        for number, steps in enumerate(_different(plans, likely)[:most]):
            named = _named(steps)
            outlook = Follower(self.room, self.rules, self._by_id, named, self.goal).outlook()
            if outlook.by_season and outlook.by_season[-1] > 0:
                names = {name for step in named for name in (step.dam, step.sire)}
                bought = next((name for name in sorted(names & set(self._by_id)) if self._by_id[name].is_bought), "")
                found.append(Found(named, outlook, bought))
            self.told(done + share * (number + 1) / most)
        return sorted(found, key=soonest)


def soonest(found: Found) -> tuple[float, float]:
    """Plans in their order: by the median season, then by how likely the goal is there over all seasons."""
    median = found.outlook.median
    return (NEVER if median is None else median, -sum(found.outlook.by_season))


def _joined(dam: _Piece, sire: _Piece) -> tuple[Step, ...]:
    """The steps to both, each once."""
    return tuple({step.id: step for step in (*dam.steps, *sire.steps)}.values())


def _different(plans: Sequence[tuple[Step, ...]], likely: Mapping[str, Genome]) -> list[tuple[Step, ...]]:
    """The first of each kind: plans in which animals of the same kinds are paired for the same."""
    kinds: dict[object, tuple[Step, ...]] = {}
    for steps in plans:
        names = {step.id: place for place, step in enumerate(steps)}
        kind = tuple(
            (
                likely.get(step.dam, names.get(step.dam)),
                likely.get(step.sire, names.get(step.sire)),
                step.keep.sex,
                tuple(sorted(step.keep.genes.items())),
            )
            for step in steps
        )
        kinds.setdefault(kind, steps)
    return list(kinds.values())


def _named(steps: Sequence[Step]) -> tuple[Step, ...]:
    """The steps with short names for what is held back."""
    names = {step.id: f"H{place}" for place, step in enumerate(steps, start=1)}
    return tuple(
        replace(step, dam=names.get(step.dam, step.dam), sire=names.get(step.sire, step.sire), id=names[step.id])
        for step in steps
    )
