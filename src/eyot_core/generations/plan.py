"""A plan followed season by season: which animals are paired, what is held back, and the chance that the goal is there by each season.

The rules stand in docs/formats/project.md, so that anybody can program them and get the same numbers. A plan is a Markov chain over what
has been held back so far; what an own animal is not known to carry is one fact for all its clutches, so the chain is followed
for each thing that it may be, and the chances are weighed. Where that is too much, many seasons are played, seeded, and the
error is said.

Source: Markov chains; the multinomial distribution of a clutch's hatchlings over what they may serve for.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from math import comb

import numpy as np

from eyot_core.generations.genomes import Genome, Room, Wanted, Young
from eyot_core.genetics.inheritance import FEMALE

MOST_WORLDS, MOST_STATES, MOST_COUNTS = 400, 6_000, 4_000
PLAYED = 20_000
SEED = 20_262
TINY = 1e-12


@dataclass(frozen=True)
class Rules:
    """How a keeper works. ``eggs`` of one clutch, the share that ``hatch``, ``clutches`` of a dam in a season; from how many seasons after
    hatching an animal may be paired; ``rest``: seasons that a dam rests after one with eggs; ``tests``: are plans sought that have
    hatchlings tested?"""

    eggs: int = 6
    hatch: float = 0.9
    clutches: int = 1
    female_ready: int = 3
    male_ready: int = 1
    seasons: int = 8
    generations: int = 4
    places: int = 4
    rest: int = 0
    tests: bool = True

    @property
    def young(self) -> int:
        """Eggs of a dam in one season."""
        return self.eggs * self.clutches

    def ready_after(self, sex: int) -> int:
        """Seasons from hatching to the first pairing."""
        return self.female_ready if sex == FEMALE else self.male_ready


@dataclass(frozen=True)
class Own:
    """An animal that is there: what it may be, with the chances, and from which season it may be paired. ``carries``: the genes of any
    place that it may have; ``is_bought``: it is not there, but could be bought."""

    id: str
    sex: int
    genomes: Mapping[Genome, float]
    ready: int = 0
    carries: frozenset[str] = frozenset()
    is_bought: bool = False


@dataclass(frozen=True)
class Step:
    """A pairing from a season on, and the one hatchling that is held back of it, as ``id``; ``tested``: genes that a test tells."""

    season: int
    dam: str
    sire: str
    id: str
    keep: Wanted
    tested: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Outlook:
    """The chance that the goal is there at the end of each season; ``error``: the standard error, 0 where it is exact. ``paired``: how
    many clutches are laid on the way on average; ``stuck``: for each step the chance that it is what is waited for at the end."""

    by_season: tuple[float, ...]
    error: float
    paired: float
    stuck: tuple[float, ...]

    @property
    def median(self) -> int | None:
        """The first season by whose end the goal is as likely there as not."""
        return next((season for season, chance in enumerate(self.by_season) if chance >= 0.5 - TINY), None)


Kept = tuple[int, Genome, int] | None
"""Sex, genome and the season from which it may be paired; None while it is not there."""
State = tuple[tuple[Kept, ...], tuple[tuple[str, int], ...], frozenset[int]]
"""What each step has held back; the dams that rest, with the season from which they may be paired again; and of which sexes there is one
that is what is wanted."""
Filled = tuple[tuple[int, Genome] | None, ...]
"""For each of some steps whom it held back, by sex and genome."""


@dataclass
class Follower:
    """A plan with its animals, followed under the rules."""

    room: Room
    rules: Rules
    animals: Mapping[str, Own]
    steps: Sequence[Step]
    goal: Wanted

    def __post_init__(self) -> None:
        self._places = {step.id: place for place, step in enumerate(self.steps)}
        self._filled: dict[tuple[Genome, Genome, tuple[int, ...]], list[tuple[float, Filled]]] = {}
        self._needed_by = [
            [place for place, step in enumerate(self.steps) if one.id in (step.dam, step.sire)] for one in self.steps
        ]

    def outlook(self) -> Outlook:
        """Exact where that is not too much, else played."""
        names = sorted({name for step in self.steps for name in (step.dam, step.sire) if name in self.animals})
        worlds = list(product(*(self.animals[name].genomes.items() for name in names)))
        if len(worlds) <= MOST_WORLDS:
            try:
                return self._exact(names, worlds)
            except _TooMuch:
                pass
        return self._played(names)

    def _exact(self, names: Sequence[str], worlds: Sequence[tuple[tuple[Genome, float], ...]]) -> Outlook:
        reached, stuck, paired = np.zeros(self.rules.seasons), np.zeros(len(self.steps)), 0.0
        for world in worlds:
            weight = float(np.prod([chance for _, chance in world])) if world else 1.0
            genomes = {name: genome for name, (genome, _) in zip(names, world, strict=True)}
            by_season, left, clutches = self._chain(genomes)
            reached, stuck, paired = reached + weight * by_season, stuck + weight * left, paired + weight * clutches
        return Outlook(tuple(np.minimum(1.0, np.cumsum(reached)).tolist()), 0.0, paired, tuple(stuck.tolist()))

    def _chain(self, genomes: Mapping[str, Genome]) -> tuple[np.ndarray, np.ndarray, float]:
        states: dict[State, float] = {self._beginning(): 1.0}
        reached, paired = np.zeros(self.rules.seasons), 0.0
        for season in range(self.rules.seasons):
            after: dict[State, float] = {}
            for state, chance in states.items():
                for share, now, is_there, clutches in self._season(state, season, genomes):
                    paired += chance * share * clutches
                    if is_there:
                        reached[season] += chance * share
                    else:
                        after[now] = after.get(now, 0.0) + chance * share
            states = after
            if len(states) > MOST_STATES:
                raise _TooMuch
        stuck = np.zeros(len(self.steps))
        for (kept, _, _), chance in states.items():
            waiting = next((place for place, one in enumerate(kept) if one is None), None)
            if waiting is not None:
                stuck[waiting] += chance
        return reached, stuck, paired

    def _season(
        self, state: State, season: int, genomes: Mapping[str, Genome]
    ) -> Iterator[tuple[float, State, bool, int]]:
        """What a season makes of a state: chance, the state after it, whether the goal is there, how many clutches were laid."""
        kept, resting, there = state
        clutches = self._clutches(state, season)
        outcomes = [
            self._outcomes(self._genome(dam, kept, genomes), self._genome(sire, kept, genomes), steps)
            for (dam, sire), steps in clutches.items()
        ]
        rests = tuple((name, until) for name, until in resting if until > season + 1)
        if self.rules.rest:
            rests += tuple(sorted((dam, season + 1 + self.rules.rest) for dam, _ in clutches))
        for combined in product(*outcomes):
            chance, now, sexes = 1.0, list(kept), there
            for (share, filled), steps in zip(combined, clutches.values(), strict=True):
                chance *= share
                for place, one in zip(steps, filled, strict=True):
                    if one is not None:
                        sex, genome = one
                        now[place] = (sex, genome, season + self.rules.ready_after(sex))
                        sexes |= {sex} if self.room.has(genome, sex, self.goal) else frozenset()
            yield chance, (self._forgotten(now, season), rests, sexes), self._is_reached(sexes), len(clutches)

    def _beginning(self) -> State:
        return (None,) * len(self.steps), (), frozenset()

    def _is_reached(self, sexes: frozenset[int]) -> bool:
        """Is the goal there, where these sexes of it are?"""
        return len(sexes) > (1 if self.goal.is_pair else 0)

    def _clutches(self, state: State, season: int) -> dict[tuple[str, str], tuple[int, ...]]:
        """The pairs that are brought together in a season, each with the steps that its clutch may serve, in the order of the plan."""
        kept, resting, _ = state
        pairs: dict[tuple[str, str], list[int]] = {}
        taken = {name for name, until in resting if until > season}
        for place, step in enumerate(self.steps):
            if kept[place] is not None or step.season > season:
                continue
            pair = (step.dam, step.sire)
            if pair in pairs:
                pairs[pair].append(place)
            elif step.dam not in taken and all(self._is_ready(name, kept, season) for name in pair):
                pairs[pair] = [place]
                taken.add(step.dam)
        return {pair: tuple(places) for pair, places in pairs.items()}

    def _is_ready(self, name: str, kept: Sequence[Kept], season: int) -> bool:
        if name in self.animals:
            return self.animals[name].ready <= season
        one = kept[self._places[name]]
        return one is not None and one[2] <= season

    def _genome(self, name: str, kept: Sequence[Kept], genomes: Mapping[str, Genome]) -> Genome:
        if name in genomes:
            return genomes[name]
        one = kept[self._places[name]]
        assert one is not None
        return one[1]

    def _forgotten(self, kept: Sequence[Kept], season: int) -> tuple[Kept, ...]:
        """Without what no step asks for any more: of that all that is left is that it was held back. Who is ready stays so."""
        plain: list[Kept] = []
        for place, one in enumerate(kept):
            if one is None:
                plain.append(None)
            elif all(kept[other] is not None for other in self._needed_by[place]):
                plain.append((0, (), 0))
            else:
                plain.append((one[0], one[1], max(one[2], season + 1)))
        return tuple(plain)

    def _outcomes(self, dam: Genome, sire: Genome, steps: tuple[int, ...]) -> list[tuple[float, Filled]]:
        """Whom the steps of one clutch hold back, with the chances; kept for the next time."""
        key = (dam, sire, steps)
        if key not in self._filled:
            wanted = [self.steps[place].keep for place in steps]
            self._filled[key] = held_back(self.room, self.room.young(dam, sire), wanted, self.rules)
        return self._filled[key]

    def _played(self, names: Sequence[str]) -> Outlook:
        """By many games of the same rules."""
        rng = np.random.default_rng(SEED)
        choices = [list(self.animals[name].genomes.items()) for name in names]
        reached, stuck, paired = np.zeros(self.rules.seasons), np.zeros(len(self.steps)), 0
        for _ in range(PLAYED):
            genomes = {
                name: options[int(rng.choice(len(options), p=[chance for _, chance in options]))][0]
                for name, options in zip(names, choices, strict=True)
            }
            state = self._beginning()
            for season in range(self.rules.seasons):
                rows = list(self._season_played(state, season, genomes, rng))
                state, is_there, clutches = rows[0]
                paired += clutches
                if is_there:
                    reached[season] += 1
                    break
            else:
                waiting = next((place for place, one in enumerate(state[0]) if one is None), None)
                if waiting is not None:
                    stuck[waiting] += 1
        by_season = np.cumsum(reached) / PLAYED
        error = float(np.sqrt(by_season * (1 - by_season) / PLAYED).max())
        return Outlook(tuple(by_season.tolist()), error, paired / PLAYED, tuple((stuck / PLAYED).tolist()))

    def _season_played(
        self, state: State, season: int, genomes: Mapping[str, Genome], rng: np.random.Generator
    ) -> Iterator[tuple[State, bool, int]]:
        kept, resting, there = state
        clutches = self._clutches(state, season)
        now, sexes = list(kept), there
        for (dam, sire), steps in clutches.items():
            young = self.room.young(self._genome(dam, kept, genomes), self._genome(sire, kept, genomes))
            hatched = _hatched(young, self.rules, rng)
            for place in steps:
                fitting = [
                    at for at, (sex, genome) in enumerate(hatched) if self.room.has(genome, sex, self.steps[place].keep)
                ]
                if fitting:
                    sex, genome = hatched.pop(fitting[int(rng.integers(len(fitting)))])
                    now[place] = (sex, genome, season + self.rules.ready_after(sex))
                    sexes |= {sex} if self.room.has(genome, sex, self.goal) else frozenset()
        rests = tuple((name, until) for name, until in resting if until > season + 1)
        if self.rules.rest:
            rests += tuple(sorted((dam, season + 1 + self.rules.rest) for dam, _ in clutches))
        yield (tuple(now), rests, sexes), self._is_reached(sexes), len(clutches)


class _TooMuch(Exception):
    """A chain has more states than are followed."""


def _hatched(young: Young, rules: Rules, rng: np.random.Generator) -> list[tuple[int, Genome]]:
    kinds = list(young)
    chances = np.array([young[kind] * rules.hatch for kind in kinds])
    drawn = rng.random(rules.young)
    places = np.searchsorted(np.cumsum(chances), drawn, side="right")
    return [kinds[place] for place in places if place < len(kinds)]


def held_back(room: Room, young: Young, wanted: Sequence[Wanted], rules: Rules) -> list[tuple[float, Filled]]:
    """Whom each of some wishes is given of one clutch, in their order: one of the hatchlings that fit and are left, any of them alike.

    With the chance of each outcome; they sum to 1.
    """
    regions: dict[int, dict[tuple[int, Genome], float]] = {}
    for (sex, genome), chance in young.items():
        mask = sum(1 << place for place, one in enumerate(wanted) if room.has(genome, sex, one))
        if mask:
            regions.setdefault(mask, {})[sex, genome] = chance * rules.hatch
    masks = sorted(regions)
    if comb(rules.young + len(masks), len(masks)) > MOST_COUNTS:
        raise _TooMuch
    sums = [sum(regions[mask].values()) for mask in masks]
    chosen: dict[tuple[int | None, ...], float] = {}
    for counts, chance in _counts(sums, rules.young):
        for picks, share in _picks(masks, counts, len(wanted)):
            chosen[picks] = chosen.get(picks, 0.0) + chance * share
    outcomes: dict[Filled, float] = {}
    for picks, chance in chosen.items():
        options = [
            [(None, 1.0)]
            if mask is None
            else [(kind, own / sums[masks.index(mask)]) for kind, own in regions[mask].items()]
            for mask in picks
        ]
        for combined in product(*options):
            share = chance
            for _, own in combined:
                share *= own
            filled = tuple(kind for kind, _ in combined)
            outcomes[filled] = outcomes.get(filled, 0.0) + share
    return [(chance, filled) for filled, chance in outcomes.items() if chance > 0]


def _counts(chances: Sequence[float], eggs: int) -> Iterator[tuple[tuple[int, ...], float]]:
    """How many of a clutch are of each kind, with the chance: a multinomial whose rest is none of them."""

    def following(place: int, left: int, rest: float) -> Iterator[tuple[tuple[int, ...], float]]:
        if place == len(chances):
            yield (), 1.0
            return
        own = min(1.0, chances[place] / rest) if rest > TINY else 0.0
        for count in range(left + 1):
            chance = comb(left, count) * own**count * (1 - own) ** (left - count)
            if chance > 0:
                for more, share in following(place + 1, left - count, rest - chances[place]):
                    yield (count, *more), chance * share

    yield from following(0, eggs, 1.0)


def _picks(masks: Sequence[int], counts: Sequence[int], wishes: int) -> Iterator[tuple[tuple[int | None, ...], float]]:
    """Of which kind each wish is given one, in their order, with the chance."""

    def following(wish: int, left: tuple[int, ...]) -> Iterator[tuple[tuple[int | None, ...], float]]:
        if wish == wishes:
            yield (), 1.0
            return
        fitting = [place for place, mask in enumerate(masks) if mask >> wish & 1 and left[place]]
        total = sum(left[place] for place in fitting)
        if not total:
            for more, share in following(wish + 1, left):
                yield (None, *more), share
        for place in fitting:
            fewer = tuple(count - (at == place) for at, count in enumerate(left))
            for more, share in following(wish + 1, fewer):
                yield (masks[place], *more), share * left[place] / total

    yield from following(0, tuple(counts))
