"""The JSON forms of an identification: from the document to the inference, and from the inference to the answer."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from eyot_core.catalogue.model import STAGES, Catalogue, GeneLoad
from eyot_core.catalogue.read import population_from
from eyot_core.genetics.cross import DOCUMENT_KEYS, ranked
from eyot_core.genetics.pairing import Pairing, pairing_from
from eyot_core.genetics.tables import Floats, Marginals, as_chance
from eyot_core.identify.evidence import hatchlings_from
from eyot_core.identify.inference import Inference
from eyot_core.identify.questions import next_looks, surprises, unlisted_genes
from eyot_core.identify.unknown_parents import open_answer
from eyot_core.parsing import Node


@dataclass(frozen=True)
class Options:
    """``top``: how many combinations to name; ``look_stage``: the stage for the next look (``None``: by hatchling).

    ``population``: levels of gene load of animals of unknown parents (empty: the catalogue's own).
    """

    top: int = 20
    look_stage: str | None = None
    population: tuple[GeneLoad, ...] = ()


def options_from(node: Node) -> Options:
    """The options in a document."""
    node.object([], ["top", "look_stage", "population"])
    return Options(
        top=node.child("top").whole(1) if node.has("top") else 20,
        look_stage=node.child("look_stage").choice(STAGES) if node.has("look_stage") else None,
        population=population_from(node.child("population")) if node.has("population") else (),
    )


def identify(node: Node, catalogue: Catalogue) -> dict[str, Any]:
    """The answer of ``identify`` for a document; :class:`~eyot_core.errors.InputError` where it is wrong."""
    node.object(["dam", "sires", "hatchlings"], DOCUMENT_KEYS)
    options = options_from(node.child("options")) if node.has("options") else Options()
    if is_open(node):
        hatchlings = hatchlings_from(node.child("hatchlings"), catalogue, 0)
        return open_answer(catalogue, hatchlings, options.top, options.look_stage, options.population)
    if options.population:
        raise (
            node.child("options")
            .child("population")
            .wrong("a population speaks of animals of unknown parents; here the parents are known")
        )
    pairing = pairing_from(node, catalogue)
    hatchlings = hatchlings_from(node.child("hatchlings"), catalogue, len(pairing.sires))
    return answer_of(Inference(pairing, hatchlings), options)


def is_open(node: Node) -> bool:
    """Is nothing known of the parents: no dam and no sires?"""
    return node.value["dam"] is None and node.value["sires"] == []


def answer_of(inference: Inference, options: Options) -> dict[str, Any]:
    """The JSON answer of a finished inference."""
    answer = {
        "log_evidence": inference.log_evidence,
        "parents": parents_after(inference),
        "hatchlings": [hatchling_answer(inference, index, options) for index in range(len(inference.hatchlings))],
    }
    if makers := makers_after(inference):
        answer["makers"] = makers
    return answer


def hatchling_answer(inference: Inference, index: int, options: Options) -> dict[str, Any]:
    """What is known of one hatchling, in the form of the contract."""
    posterior, pairing = inference.posteriors[index], inference.pairing
    answer: dict[str, Any] = {
        "id": inference.hatchlings[index].id,
        "log_evidence": posterior.log_evidence,
        "sires": [as_chance(chance) for chance in posterior.sires],
        "female": as_chance(posterior.female),
        "genes": gene_chances(pairing, posterior.sums, posterior.prior_sums),
        "combos": [
            {"genotype": genotype, "probability": chance}
            for _, genotype, chance in ranked(pairing, posterior.children, options.top)
        ],
        "looks": [
            {"trait": look.trait, "gain": look.gain} for look in next_looks(inference, index, options.look_stage)
        ],
    }
    if posterior.contradiction:
        return answer | {"contradiction": True}
    return answer | {
        "odd": [{"trait": row.trait, "expected": row.expected} for row in surprises(inference, index)],
        "unlisted": [
            {"gene": row.gene, "copies": row.copies, "factor": row.factor} for row in unlisted_genes(inference, index)
        ],
    }


def gene_chances(pairing: Pairing, children: Marginals, prior: Marginals) -> list[dict[str, Any]]:
    """For each gene that the pairing can give: chances of 0, 1 and 2 copies after (``copies``) and before (``prior``) looking."""
    rows = []
    for gene, (g, counting) in pairing.counting.items():
        after, before = ((counting @ sums.of([g])).tolist() for sums in (children, prior))
        rows.append({"gene": gene, "copies": _by_count(after), "prior": _by_count(before)})
    return rows


def _by_count(chances: list[float]) -> dict[str, float]:
    return {str(count): as_chance(chance) for count, chance in enumerate(chances)}


def _by_copies(chances: Floats, copies: np.typing.NDArray[np.int64]) -> dict[str, float]:
    return {str(count): as_chance(chances[copies == count].sum()) for count in range(3)}


def parents_after(inference: Inference) -> dict[str, Any]:
    """Chances of copies, after all looks, of every gene of which a parent's number of copies was uncertain."""
    pairing = inference.pairing
    return {
        "dam": _uncertain_genes(inference, -1),
        "sires": [_uncertain_genes(inference, s) for s in range(len(pairing.sires))],
    }


def _states_after(inference: Inference, whose: int, g: int) -> tuple[tuple[Any, ...], Floats]:
    """The states of one parent at a group, with their chances after all looks."""
    pairing = inference.pairing
    group = pairing.groups[g]
    states = group.dam_states if whose < 0 else group.sire_states[whose]
    if (whose, g) not in pairing.axes:
        return states, np.ones(1)
    axis = pairing.axes.index((whose, g))
    return states, np.asarray(
        inference.hypotheses.sum(axis=tuple(other for other in range(len(pairing.axes)) if other != axis))
    )


def _uncertain_genes(inference: Inference, whose: int) -> list[dict[str, Any]]:
    pairing, genes = inference.pairing, []
    for gene in pairing.catalogue.genes.values():
        if gene.locus not in pairing.group_of:
            continue
        g, position = pairing.group_of[gene.locus]
        linked = len(pairing.groups[g].loci) == 2
        states, chances = _states_after(inference, whose, g)
        alleles = [tuple(hap[position] for hap in state) if linked else state for state in states]
        copies = np.array([state.count(gene.id) for state in alleles], dtype=np.int64)
        if len(set(copies.tolist())) > 1:
            genes.append({"gene": gene.id, "copies": _by_copies(chances, copies)})
    return genes


def makers_after(inference: Inference) -> list[dict[str, Any]]:
    """For each sire with a single sex-linked gene of uncertain place: the chance that it sits on his X, after all looks."""
    pairing, makers = inference.pairing, []
    for sire in range(len(pairing.sires)):
        for g, group in enumerate(pairing.groups):
            if group.on_sex_chromosome and (sire, g) in pairing.axes:
                states, chances = _states_after(inference, sire, g)
                for gene in sorted({allele for state in states for allele in state if allele}):
                    single = np.array([state.count(gene) == 1 for state in states])
                    on_x = np.array([state[0] == gene and state[1] != gene for state in states])
                    if (total := float(chances[single].sum())) > 0:
                        makers.append(
                            {"sire": sire, "gene": gene, "on_x": as_chance(chances[single & on_x].sum() / total)}
                        )
    return makers
