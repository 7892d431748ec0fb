"""Times of the computation, for the table in docs/benchmarks.md. Run by ``bin/eyot bench``.

Catalogues and clutches are random but always the same: 35 looks, each touched by rules over two to five of the segregating
loci, of which the first ``complexes`` have two alleles and the next ``shared`` have one gene in both parents.
"""

from __future__ import annotations

import random
import statistics
import time
from collections.abc import Callable
from typing import Any

from eyot_core.catalogue import Catalogue, builtin_catalogue, catalogue_from
from eyot_core.generations.answer import project_answer
from eyot_core.genetics.pairing import Pairing, pairing_from
from eyot_core.identify.answer import Options, answer_of
from eyot_core.identify.evidence import Hatchling, Observation
from eyot_core.identify.inference import Inference
from eyot_core.identify.traits import TraitModel
from eyot_core.identify.unknown_parents import OpenIdentification, open_answer
from eyot_core.parsing import Node

from tests.core.pairings import CLEAR
from tests.core.random_documents import tied_catalogue
from tests.judgement_study import kept_animal

Json = dict[str, Any]
LOOKS, SEEN = 35, 14
RED_EYED = (("eye_color", "red"), ("dark_pigment", "absent"))
Case = tuple[Json, Json, Catalogue]


def milliseconds(work: Callable[[], Any], rounds: int = 9) -> float:
    """Median of some rounds, after one that is not counted."""
    work()
    times = []
    for _ in range(rounds):
        started = time.perf_counter()
        work()
        times.append((time.perf_counter() - started) * 1000)
    return statistics.median(times)


def random_catalogue(r: random.Random, loci: int, complexes: int) -> Json:
    """A catalogue of so many loci, of which the first are complexes of two genes."""
    genes = [
        {"id": f"g{i}{k}", "locus": f"L{i}", "inheritance": r.choice(["recessive", "incomplete_dominant"])}
        for i in range(loci)
        for k in range(2 if i < complexes else 1)
    ]
    traits = [
        {
            "id": f"T{t}",
            "levels": [{"id": f"v{k}", "base": 1.5 * (k == 0)} for k in range(r.randint(2, 6))],
            "clarity": CLEAR,
        }
        for t in range(LOOKS)
    ]
    effects = []
    for trait in traits:
        for locus in r.sample(range(loci), r.randint(2, 5)):
            own = [gene["id"] for gene in genes if gene["locus"] == f"L{locus}"]
            copies = r.choice([[1], [2], [1, 2]])
            push = {r.choice(trait["levels"])["id"]: r.uniform(1, 4)}
            effects.append({"when": [{"gene": r.choice(own), "copies": copies}], "trait": trait["id"], "push": push})
    loci_ = [{"id": f"L{i}"} for i in range(loci)]
    return {"format": "eyot-catalogue/1", "loci": loci_, "genes": genes, "traits": traits, "effects": effects}


def segregating(loci: int, complexes: int, shared: int, uncertain: int = 0, seed: int = 1) -> Case:
    """A dam and a sire at whose every locus something segregates; ``uncertain``: dam's genes known as a chance only."""
    document = random_catalogue(random.Random(seed), loci, complexes)
    dam, sire = [], []
    for i in range(loci):
        dam.append({"gene": f"g{i}0", "copies": 1})
        if i < complexes + shared:
            sire.append({"gene": f"g{i}{1 if i < complexes else 0}", "copies": 1})
    for entry in dam[complexes + shared : complexes + shared + uncertain]:
        entry["copies"] = {"0": 0.2, "1": 0.5, "2": 0.3}
    return {"genes": dam}, {"genes": sire}, catalogue_from(Node(document))


def paired(case: Case) -> Pairing:
    dam, sire, catalogue = case
    return pairing_from(Node({"dam": dam, "sires": [sire]}), catalogue)


def seen(catalogue: Catalogue, r: random.Random, count: int = SEEN) -> tuple[Observation, ...]:
    """So many looks at random."""
    chosen = r.sample(list(catalogue.traits.values()), count)
    return tuple(Observation(trait.id, r.choice(trait.levels).id, "shed") for trait in chosen)


def whole_answer(model: TraitModel, clutch: list[Hatchling]) -> Json:
    """Everything of the contract but the genes outside the pairing (there are none)."""
    return answer_of(Inference(model.pairing, clutch, model), Options())


def rows() -> list[tuple[str, float, float]]:
    """Name, wanted and measured milliseconds."""
    r = random.Random(7)
    twelve, fourteen = segregating(12, 2, 5), segregating(14, 2, 6)
    clutch_case, all_case = segregating(12, 2, 2, uncertain=3), segregating(14, 0, 14)
    models = {
        name: TraitModel(paired(case))
        for name, case in (("12", twelve), ("14", fourteen), ("8", clutch_case), ("all", all_case))
    }
    one = {name: [Hatchling("1", seen(model.catalogue, r))] for name, model in models.items()}
    eight = [Hatchling(str(i), seen(clutch_case[2], r)) for i in range(8)]
    sixty = catalogue_from(Node(random_catalogue(random.Random(3), 60, 4)))
    stranger = Hatchling("1", seen(sixty, random.Random(5)))

    tied = catalogue_from(Node(tied_catalogue(random.Random(3))))
    tied_stranger = Hatchling("1", seen(tied, random.Random(5)))
    tied_case = tied_pairing()
    builtin = builtin_catalogue()
    albino = Hatchling("1", tuple(Observation(*look, "adult") for look in RED_EYED))
    many_looks = Hatchling("1", seen(builtin, random.Random(5), 12))
    kept = kept_animal(3)[1]

    def open_of(catalogue: Catalogue, one: Hatchling) -> float:
        return milliseconds(lambda: open_answer(catalogue, [one], 20, None), 5)

    def prepared_tied() -> None:
        model = TraitModel(paired(tied_case))
        for trait in model.catalogue.traits:
            model.table(trait, "shed")

    def one_of(name: str) -> Callable[[], Any]:
        return lambda: whole_answer(models[name], one[name])

    def prepared() -> None:
        model = TraitModel(paired(twelve))
        for trait in model.catalogue.traits:
            model.table(trait, "shed")

    cells = {name: int(model.pairing.expected.size) for name, model in models.items()}
    return [
        (
            f"one hatchling, 12 segregating loci ({cells['12']:,} genotypes), 14 looks of 35, whole answer",
            10,
            milliseconds(one_of("12")),
        ),
        (f"the same, 14 loci ({cells['14']:,})", 40, milliseconds(one_of("14"))),
        (
            f"clutch of 8, 12 loci ({cells['8']:,}), 3 uncertain loci of a parent",
            120,
            milliseconds(lambda: whole_answer(models["8"], eight)),
        ),
        (f"all of 3^14 genotypes ({cells['all']:,})", 200, milliseconds(one_of("all"), 3)),
        ("setting up a pairing (tables, plan)", 50, milliseconds(prepared)),
        ("the same, each look touched by 2 to 12 loci, with dilutions and masks", 50, milliseconds(prepared_tied)),
        ("open, 60 loci tied by looks at 2 to 15 of them, 14 looks, whole answer", 1000, open_of(tied, tied_stranger)),
        ("open, built-in catalogue, two looks, whole answer", 500, open_of(builtin, albino)),
        ("the same, twelve looks at an animal of this population", 1000, open_of(builtin, kept)),
        ("the same, twelve looks at random, which no animal would show together", 1000, open_of(builtin, many_looks)),
        (
            "open identification over 60 loci, proven top 20",
            300,
            milliseconds(lambda: proven_twenty(sixty, stranger), 5),
        ),
        *of_projects(),
    ]


GOAL = {"clown": 2, "piebald": 2, "pastel": 1, "enchi": 1}


def of_projects() -> list[tuple[str, int, float]]:
    """Plans for four genes of which two are recessive, from 60 animals."""
    document = project()
    plans = project_answer(Node(document), builtin_catalogue())["plans"]
    given = document | {"plan": plans[0]["steps"]}
    return [
        (
            f"plans for four genes, two of them recessive, from {len(document['animals'])} animals",
            5000,
            milliseconds(lambda: project_answer(Node(document), builtin_catalogue()), 3),
        ),
        ("one plan followed", 200, milliseconds(lambda: project_answer(Node(given), builtin_catalogue()), 5)),
    ]


def project() -> Json:
    """Sixty animals of one to three genes each, of which some are known only by chance."""
    r = random.Random(9)
    genes = [*GOAL, "mojave", "banana", "spider", "cinnamon", "orange_dream", "leopard"]
    animals = []
    for number in range(60):
        sex = r.choice(["female", "male"])
        entries = []
        for gene in r.sample(genes, r.randint(1, 3)):
            is_recessive = gene in ("clown", "piebald")
            copies = r.choice([1, 2]) if is_recessive else 1
            chance = r.choice(["1", "1/2", "2/3"]) if is_recessive and copies == 1 else "1"
            entries.append({"gene": gene, "copies": copies} | ({} if chance == "1" else {"chance": chance}))
        animals.append({"id": f"A{number}", "sex": sex, "genes": entries, "ready": r.randint(0, 2)})
    rules = {"seasons": 10, "places": 5}
    return {
        "animals": animals,
        "goal": {"genes": [{"gene": k, "copies": v} for k, v in GOAL.items()]},
        "rules": rules,
    }


def tied_pairing() -> Case:
    """Parents at twelve of whose loci something segregates, over a catalogue whose looks tie its loci together."""
    document = tied_catalogue(random.Random(1), loci=12, genes=18, most=12)
    first = [f"g{i}" for i in range(12)]
    dam = [{"gene": gene, "copies": 1} for gene in first]
    return {"genes": dam}, {"genes": dam[:5]}, catalogue_from(Node(document))


def proven_twenty(catalogue: Catalogue, stranger: Hatchling) -> None:
    one = OpenIdentification.of(catalogue, stranger)
    assert one.proven_combos(20) == 20


if __name__ == "__main__":
    for name, wanted, measured in rows():
        print(f"| {name} | {wanted} ms | {measured:.0f} ms |", flush=True)
