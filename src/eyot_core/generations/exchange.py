"""Another animal in the place of one of a plan: where that one is gone, does not bring what was hoped, or is too close kin."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from eyot_core.generations.genomes import Room, Wanted, can_be_told, least_copies
from eyot_core.generations.harm import Harm
from eyot_core.generations.plan import Follower, Own, Rules, Step
from eyot_core.generations.search import Found, soonest


@dataclass(frozen=True)
class Exchange:
    """A plan with ``taken`` in the place of ``left``, and what comes of it."""

    left: str
    taken: str
    found: Found


@dataclass(frozen=True)
class Exchanging:
    """A plan, and who could take an animal's place in it. ``animals``: those of the plan that are there, and the candidates."""

    room: Room
    rules: Rules
    goal: Wanted
    steps: Sequence[Step]
    animals: Sequence[Own]

    def of(self, left: str, candidates: Sequence[Own], only: str = "") -> list[Exchange]:
        """Which candidates lead to the goal in an animal's place, the soonest first. ``left`` need not be there any more; ``only``: the
        step that another is put into, where it is not all."""
        found = []
        for one in candidates:
            steps = put(self.steps, left, one.id, only)
            animals = {animal.id: animal for animal in (*self.animals, one) if only or animal.id != left}
            if one.id != left and one.sex == self._sex_of(left) and self._may_be(steps, animals):
                outlook = Follower(self.room, self.rules, animals, steps, self.goal).outlook()
                if outlook.by_season[-1] > 0:
                    found.append(Exchange(left, one.id, Found(tuple(steps), outlook)))
        return sorted(found, key=lambda exchange: soonest(exchange.found))

    def _sex_of(self, name: str) -> int | None:
        """As which a plan has an animal: 0 a dam, 1 a sire."""
        return next(
            (sex for step in self.steps for sex, role in enumerate((step.dam, step.sire)) if role == name), None
        )

    def _may_be(self, steps: Sequence[Step], animals: dict[str, Own]) -> bool:
        """Can what each step asks for be told, and is no pair forbidden?"""
        harm = Harm.of(self.room.catalogue)
        carried = {name: own.carries for name, own in animals.items()}
        keeps = {step.id: step.keep.genes for step in self.steps}
        for step in steps:
            dam, sire = (carried.get(name, frozenset()) for name in (step.dam, step.sire))
            if harm.forbids(dam, sire):
                return False
            carried[step.id] = dam | sire
            for gene, copies in step.keep.genes.items():
                if gene in step.tested:
                    continue
                least = [
                    least_copies(animals[name].genomes, self.room, gene)
                    if name in animals
                    else keeps.get(name, {}).get(gene, 0)
                    for name in (step.dam, step.sire)
                ]
                if not can_be_told(self.room.catalogue, gene, copies, least):
                    return False
        return True


def put(steps: Sequence[Step], left: str, taken: str, only: str = "") -> list[Step]:
    """Steps with one animal in another's place; ``only``: in that step alone."""
    return [
        replace(step, dam=taken if step.dam == left else step.dam, sire=taken if step.sire == left else step.sire)
        if only in ("", step.id)
        else step
        for step in steps
    ]
