"""A slow and obvious twin of the computation, written from the contract alone: plain loops over every joint case.

It reads the same JSON documents as ``eyot_core`` and shares no code with it. Only for small documents, taken as valid.
"""

from __future__ import annotations

import math
from collections import defaultdict
from fractions import Fraction
from itertools import product
from typing import Any

STAGES = ["egg", "wet", "blue", "shed", "months", "adult"]
CONFIDENCE = {"sure": 0.98, "likely": 0.85, "hint": 0.6}
Json = dict[str, Any]


def number(value: Any) -> float:
    return float(Fraction(value)) if isinstance(value, str) else float(value)


class Twin:
    """One catalogue; answers of ``cross`` and ``identify`` as the contract words them."""

    def __init__(self, catalogue: Json) -> None:
        self.loci = {locus["id"]: locus for locus in catalogue.get("loci", [])}
        self.genes = {gene["id"]: gene for gene in catalogue.get("genes", [])}
        self.traits = {trait["id"]: trait for trait in catalogue.get("traits", [])}
        self.linkage = catalogue.get("linkage", [])
        self.effects = catalogue.get("effects", [])
        self.dilutions = catalogue.get("dilutions", [])
        self.masks = catalogue.get("masks", [])
        self.own_population = catalogue.get("population")
        self.reckoned: dict[tuple, list[float]] = {}

    # --- parents ---------------------------------------------------------------------------------------------------

    def draws(self, animal: Json, locus: str, sire: bool) -> dict[tuple, float]:
        """Ordered pairs of alleles at one locus (X then Y for a sire's sex locus) with their chances."""
        entries = [entry for entry in animal.get("genes", []) if self.genes[entry["gene"]]["locus"] == locus]
        found: dict[tuple, float] = defaultdict(float)
        for counts in product((0, 1, 2), repeat=len(entries)):
            chance, alleles = 1.0, []
            for count, entry in zip(counts, entries, strict=True):
                chance *= self.counts(entry)[count]
                alleles += [entry] * count
            if chance > 0 and len(alleles) <= 2:
                for state, share in self.arrangements(alleles, sire and self.is_sex(locus)).items():
                    found[state] += chance * share
        total = sum(found.values())
        return {state: chance / total for state, chance in found.items() if chance > 0}

    def counts(self, entry: Json) -> list[float]:
        copies, chance = entry["copies"], number(entry.get("chance", 1))
        given = {k: number(v) for k, v in copies.items()} if isinstance(copies, dict) else {str(copies): 1.0}
        one, two = chance * given.get("1", 0.0), chance * given.get("2", 0.0)
        return [max(0.0, 1 - one - two), one, two]

    def is_sex(self, locus: str) -> bool:
        return self.loci[locus].get("location") == "sex"

    def arrangements(self, alleles: list[Json], on_xy: bool) -> dict[tuple, float]:
        names = [entry["gene"] for entry in alleles]
        if not on_xy or not names or (len(names) == 2 and names[0] == names[1]):
            a, b = [*sorted(names), None, None][:2]
            return {(a, b): 1.0}
        if len(names) == 1:
            x = self.on_x(alleles[0])
            return {(names[0], None): x, (None, names[0]): 1 - x}
        (first, second), (x1, x2) = names, (self.on_x(alleles[0]), self.on_x(alleles[1]))
        weights = {(first, second): x1 * (1 - x2), (second, first): x2 * (1 - x1)}
        total = sum(weights.values())
        return {state: weight / total for state, weight in weights.items()} if total else {}

    def on_x(self, entry: Json) -> float:
        on = entry.get("on", {"X": 0.5, "Y": 0.5})
        return number(on.get("X", 0)) if isinstance(on, dict) else float(on == "X")

    def states(self, animal: Json, sire: bool) -> list[tuple[Json, float]]:
        """Whole-animal states: for each locus its ordered pair; linked pairs ordered by haplotype."""
        found: list[tuple[Json, float]] = [({}, 1.0)]
        for locus in self.loci:
            found = [
                ({**state, locus: pair}, chance * share)
                for state, chance in found
                for pair, share in self.draws(animal, locus, sire).items()
            ]
        for link in self.linkage:
            found = [row for state, chance in found for row in self.phased(animal, link["loci"], state, chance)]
        return found

    def phased(self, animal: Json, loci: list[str], state: Json, chance: float) -> list[tuple[Json, float]]:
        (a, b), (c, d) = state[loci[0]], state[loci[1]]
        if a == b or c == d:
            return [(state, chance)]
        together = 0.5
        if (a is None) != (b is None) and (c is None) != (d is None):
            a, b, c, d = (a or b), None, (c or d), None
            for said in animal.get("phase", []):
                if set(said["loci"]) == set(loci):
                    together = float(said["together"])
        straight = {**state, loci[0]: (a, b), loci[1]: (c, d)}
        crossed = {**state, loci[0]: (a, b), loci[1]: (d, c)}
        return [(s, chance * p) for s, p in ((straight, together), (crossed, 1 - together)) if p > 0]

    # --- children --------------------------------------------------------------------------------------------------

    def gametes(self, state: Json, sire: bool, female: bool) -> dict[tuple, float]:
        found: dict[tuple, float] = {(): 1.0}
        linked = {locus: link for link in self.linkage for locus in link["loci"]}
        for locus in self.loci:
            grown: dict[tuple, float] = defaultdict(float)
            for gamete, chance in found.items():
                for place, share in self.passed(locus, linked, gamete, sire, female):
                    grown[(*gamete, (locus, place, state[locus][place]))] += chance * share
            found = grown
        alleles: dict[tuple, float] = defaultdict(float)
        for gamete, chance in found.items():
            alleles[tuple(allele for _, _, allele in gamete)] += chance
        return alleles

    def passed(self, locus: str, linked: Json, gamete: tuple, sire: bool, female: bool) -> list[tuple[int, float]]:
        """Which of the two alleles is passed on (0 or 1), with its chance given what was passed at the linked locus."""
        if sire and self.is_sex(locus):
            r = self.loci[locus].get("recombination", 0)
            return [(0, 1 - r), (1, r)] if female else [(0, r), (1, 1 - r)]
        link = linked.get(locus)
        partner = next((place for other, place, _ in gamete if link and other in link["loci"]), None)
        if partner is None:
            return [(0, 0.5), (1, 0.5)]
        return [(partner, 1 - link["recombination"]), (1 - partner, link["recombination"])]

    def child(self, dam: Json, sire: Json, female: bool) -> dict[tuple, float]:
        """Genotypes (sorted alleles for each locus) with chance × viability."""
        found: dict[tuple, float] = defaultdict(float)
        eggs, sperm = self.gametes(dam, False, female), self.gametes(sire, True, female)
        for (egg, chance), (cell, share) in product(eggs.items(), sperm.items()):
            genotype = tuple(tuple(sorted(filter(None, pair))) for pair in zip(egg, cell, strict=True))
            weight = chance * share
            for alleles in genotype:
                for gene in set(alleles):
                    weight *= self.genes[gene].get("viability", {}).get(str(alleles.count(gene)), 1)
            if weight > 0:
                found[genotype] += weight
        return found

    def hypotheses(self, document: Json) -> tuple[list[tuple[Json, list[Json], float, dict]], float]:
        """Each hypothesis: dam, sires, chance, and its living children {(sire, female, genotype): chance}; and the loss."""
        weights = [sire.get("weight", 1) for sire in document["sires"]]
        sires = [self.states(sire, True) for sire in document["sires"]]
        found = []
        for (dam, chance), *rows in product(self.states(document["dam"], False), *sires):
            children: dict[tuple, float] = {}
            for s, (state, _) in enumerate(rows):
                for female in (True, False):
                    for genotype, share in self.child(dam, state, female).items():
                        weight = share * weights[s] / sum(weights) / 2
                        if weight > 0:
                            children[s, female, genotype] = weight
            prior = chance * math.prod(share for _, share in rows)
            found.append((dam, [state for state, _ in rows], prior, children))
        living = [row for row in found if row[3]]
        total = sum(row[2] for row in living)
        if not living:
            return [], 1.0
        loss = sum(prior / total * (1 - sum(children.values())) for _, _, prior, children in living)
        scaled = [
            (dam, rows, prior / total, {key: value / sum(children.values()) for key, value in children.items()})
            for dam, rows, prior, children in living
        ]
        return scaled, loss

    def named(self, genotype: tuple) -> Json:
        return {locus: list(alleles) for locus, alleles in zip(self.loci, genotype, strict=True) if alleles}

    def cross(self, document: Json) -> Json:
        living, loss = self.hypotheses(document)
        both: dict[tuple, float] = defaultdict(float)
        female: dict[tuple, float] = defaultdict(float)
        for _, _, prior, children in living:
            for (_, is_female, genotype), chance in children.items():
                both[genotype] += prior * chance
                female[genotype] += prior * chance * is_female
        outcomes = [
            {"genotype": self.named(g), "probability": chance, "female": female[g] / chance}
            for g, chance in both.items()
        ]
        return {"outcomes": outcomes, "loss": loss}

    # --- looks -----------------------------------------------------------------------------------------------------

    def holds(self, when: list[Json], genotype: tuple) -> bool:
        counts = dict(zip(self.loci, genotype, strict=True))
        for condition in when:
            if "gene" in condition:
                count = counts[self.genes[condition["gene"]]["locus"]].count(condition["gene"])
            else:
                count = len(counts[condition["locus"]])
            if count not in condition["copies"]:
                return False
        return True

    def active(self, rules: list[Json], genotype: tuple, stage: str) -> list[Json]:
        return [rule for rule in rules if stage in rule.get("stages", STAGES) and self.holds(rule["when"], genotype)]

    def shown(self, trait: str, genotype: tuple, stage: str) -> list[float]:
        """P(level | genotype, stage), reckoned once: many hypotheses share their genotypes."""
        key = (trait, genotype, stage)
        if key not in self.reckoned:
            self.reckoned[key] = self.levels_shown(*key)
        return self.reckoned[key]

    def levels_shown(self, trait: str, genotype: tuple, stage: str) -> list[float]:
        levels = [level["id"] for level in self.traits[trait]["levels"]]
        score = {level["id"]: level.get("base", 0.0) for level in self.traits[trait]["levels"]}
        shift = 0.0
        dilutions = self.active(self.dilutions, genotype, stage)
        for effect in self.active(self.effects, genotype, stage):
            if effect["trait"] == trait:
                own = effect["when"][0].get("gene") if len(effect["when"]) == 1 else None
                factor = math.prod(
                    rule["times"]
                    for rule in dilutions
                    if own is not None and rule["gene"] == own and trait in rule.get("traits", [trait])
                )
                for level, push in effect.get("push", {}).items():
                    score[level] += push * factor
                shift += effect.get("shift", 0.0) * factor
        top = max(score.values())
        weights = [math.exp(score[level] - top) for level in levels]
        chances = self.moved(trait, [weight / sum(weights) for weight in weights], shift)
        masks = self.active(self.masks, genotype, stage)
        deciding = [mask for mask in masks if trait in mask.get("show", {}) or trait in mask.get("hide", [])]
        if deciding:
            mask = max(deciding, key=lambda rule: rule.get("rank", 0))
            uniform = [1 / len(levels)] * len(levels)
            show = mask.get("show", {})
            chances = [show[trait].get(level, 0.0) for level in levels] if trait in show else uniform
        damp = math.prod(mask["damp"][trait] for mask in masks if trait in mask.get("damp", {}))
        return [damp * chance + (1 - damp) / len(levels) for chance in chances]

    def moved(self, trait: str, chances: list[float], shift: float) -> list[float]:
        """Proportional odds along the trait's scale."""
        levels = [level["id"] for level in self.traits[trait]["levels"]]
        scale = [levels.index(level) for level in self.traits[trait].get("scale", [])]
        whole, found, before = sum(chances[place] for place in scale), list(chances), 0.0
        for count, place in enumerate(scale, start=1):
            q = sum(chances[other] for other in scale[:count]) / whole if whole else 0.0
            q = q if q <= 0 or count == len(scale) else 1 / (1 + math.exp(shift) * (1 - q) / q)
            found[place] = whole * (q - before)
            before = q
        return found

    def answered(self, trait: str, r: float, answer: str, true: str) -> float:
        """P(answer | true level) of an eye of reliability r."""
        entry = self.traits[trait]
        w = {level["id"]: level.get("mistaken", 1) for level in entry["levels"]}
        scale = entry.get("scale", [])
        mistaken = w[answer] / sum(w.values())
        if true in scale:
            at = scale.index(true)
            near = [scale[k] for k in (at - 1, at + 1) if 0 <= k < len(scale)]
            if sum(w[level] for level in near) > 0:
                beside = w[answer] / sum(w[level] for level in near) if answer in near else 0.0
                mistaken = mistaken / 2 + beside / 2
        return r * (answer == true) + (1 - r) * mistaken

    def evidence(self, hatchling: Json) -> Json:
        """For each trait seen: the stage that counts and the averaged vector."""
        by_trait: Json = defaultdict(list)
        for look in hatchling.get("observations", []):
            if look["level"] != "unseen":
                r = self.traits[look["trait"]]["clarity"][look["stage"]] * CONFIDENCE[look.get("confidence", "sure")]
                by_trait[look["trait"]].append((r, STAGES.index(look["stage"]), look["level"]))
        found = {}
        for trait, looks in by_trait.items():
            best = max(r for r, _, _ in looks)
            stage = max(s for r, s, _ in looks if r >= best - 1e-12)
            levels = [level["id"] for level in self.traits[trait]["levels"]]
            vectors = [[self.answered(trait, r, y, x) for x in levels] for r, s, y in looks if s == stage]
            found[trait] = (STAGES[stage], [sum(column) / len(vectors) for column in zip(*vectors, strict=True)])
        return found

    def likelihood(self, seen: Json, genotype: tuple) -> float:
        return math.prod(
            sum(v * p for v, p in zip(vector, self.shown(trait, genotype, stage), strict=True))
            for trait, (stage, vector) in seen.items()
        )

    def joint(self, hatchling: Json, seen: Json, children: dict) -> dict[tuple, float]:
        """Living children of one hypothesis that agree with the known sex and sire, × likelihood."""
        found = {}
        for (s, female, genotype), chance in children.items():
            sex_fits = hatchling.get("sex") in (None, "female" if female else "male")
            if sex_fits and hatchling.get("sire") in (None, s):
                found[s, female, genotype] = chance * self.likelihood(seen, genotype)
        return found

    def identify(self, document: Json) -> Json:
        living, _ = self.hypotheses(document)
        hatchlings = document["hatchlings"]
        born = {alleles for _, _, prior, kids in living if prior > 0 for _, _, genotype in kids for alleles in genotype}
        self.given = [gene for gene in self.genes if any(gene in alleles for alleles in born)]
        seen = [self.evidence(hatchling) for hatchling in hatchlings]
        joints = [
            [self.joint(hatchling, looks, children) for _, _, _, children in living]
            for hatchling, looks in zip(hatchlings, seen, strict=True)
        ]
        priors = [prior for _, _, prior, _ in living]
        sums = [[sum(part.values()) for part in row] for row in joints]
        alone = [sum(p * e for p, e in zip(priors, row, strict=True)) for row in sums]
        wrong = [value == 0 for value in alone]
        weights = self.weighed(priors, sums, wrong)
        if sum(weights) == 0:
            wrong = [True] * len(hatchlings)
            weights = list(priors)
        answer: Json = {
            "log_evidence": None if any(wrong) else math.log(sum(weights)),
            "hypotheses": [weight / sum(weights) for weight in weights],
            "hatchlings": [],
        }
        for i, hatchling in enumerate(hatchlings):
            others = self.weighed(priors, sums, [w or j == i for j, w in enumerate(wrong)])
            answer["hatchlings"].append(
                self.free(living, hatchling, document)
                if wrong[i]
                else self.one(i, hatchling, seen, joints, others, alone, living, document, wrong)
            )
        answer["parents"] = self.parents(living, answer["hypotheses"], document)
        return answer

    @staticmethod
    def weighed(priors: list[float], sums: list[list[float]], left_out: list[bool]) -> list[float]:
        return [
            prior * math.prod(row[h] for row, skip in zip(sums, left_out, strict=True) if not skip)
            for h, prior in enumerate(priors)
        ]

    def summed(self, parts: list[dict], weights: list[float]) -> dict[tuple, float]:
        found: dict[tuple, float] = defaultdict(float)
        for part, weight in zip(parts, weights, strict=True):
            for key, chance in part.items():
                found[key] += weight * chance
        total = sum(found.values())
        return {key: chance / total for key, chance in found.items()}

    def free(self, living: list, hatchling: Json, document: Json) -> Json:
        """A contradiction: the prior without its own facts; what is stated of sex and sire stands."""
        prior = self.summed([row[3] for row in living], [row[2] for row in living])
        found = {"id": hatchling["id"], "log_evidence": None, "contradiction": True} | self.facts(
            prior, prior, document
        )
        if "sex" in hatchling:
            found["female"] = float(hatchling["sex"] == "female")
        if "sire" in hatchling:
            found["sires"] = [float(s == hatchling["sire"]) for s in range(len(document["sires"]))]
        return found

    def facts(self, posterior: dict, prior: dict, document: Json) -> Json:
        genotypes: dict[tuple, float] = defaultdict(float)
        for (_, _, genotype), chance in posterior.items():
            genotypes[genotype] += chance
        given = self.given
        return {
            "sires": [sum(p for (s, _, _), p in posterior.items() if s == k) for k in range(len(document["sires"]))],
            "female": sum(p for (_, female, _), p in posterior.items() if female),
            "genes": {gene: (self.copies(posterior, gene), self.copies(prior, gene)) for gene in given},
            "genotypes": genotypes,
        }

    def copies(self, chances: dict, gene: str) -> list[float]:
        place = list(self.loci).index(self.genes[gene]["locus"])
        found = [0.0, 0.0, 0.0]
        for (_, _, genotype), chance in chances.items():
            found[genotype[place].count(gene)] += chance
        return found

    def one(
        self,
        i: int,
        hatchling: Json,
        seen: list,
        joints: list,
        others: list,
        alone: list,
        living: list,
        document: Json,
        wrong: list,
    ) -> Json:
        posterior = self.summed(joints[i], others)
        blind = [self.joint(hatchling, {}, children) for _, _, _, children in living]
        prior = self.summed(blind, [row[2] for row in living])
        found = {"id": hatchling["id"], "log_evidence": math.log(alone[i])} | self.facts(posterior, prior, document)
        found["looks"] = self.looks(hatchling, found["genotypes"], document.get("options", {}))
        found["odd"] = self.odd(i, hatchling, seen, living, others)
        found["unlisted"] = self.unlisted(seen[i], prior, list(found["genes"]))
        return found

    def looks(self, hatchling: Json, genotypes: Json, options: Json) -> dict[str, float]:
        stages = [STAGES.index(o["stage"]) for o in hatchling.get("observations", []) if o["level"] != "unseen"]
        stage = options.get("look_stage") or (STAGES[max(stages)] if stages else "shed")
        done = {
            o["trait"]
            for o in hatchling.get("observations", [])
            if o["level"] != "unseen" and STAGES.index(o["stage"]) >= STAGES.index(stage)
        }
        found = {}
        for trait, entry in self.traits.items():
            if trait not in done:
                r = entry["clarity"][stage] * 0.98
                found[trait] = self.information(
                    [(p, self.sure_answer(trait, r, self.shown(trait, g, stage))) for g, p in genotypes.items()]
                )
        return found

    def sure_answer(self, trait: str, r: float, shown: list[float]) -> list[float]:
        levels = [level["id"] for level in self.traits[trait]["levels"]]
        return [
            sum(p * self.answered(trait, r, answer, true) for p, true in zip(shown, levels, strict=True))
            for answer in levels
        ]

    @staticmethod
    def information(rows: list[tuple[float, list[float]]]) -> float:
        """Mutual information in bits of a mixture and its answer."""

        def entropy(chances: list[float]) -> float:
            return -sum(p * math.log2(p) for p in chances if p > 0)

        mean = [sum(weight * answer[k] for weight, answer in rows) for k in range(len(rows[0][1]))]
        return entropy(mean) - sum(weight * entropy(answer) for weight, answer in rows)

    def odd(self, i: int, hatchling: Json, seen: list, living: list, others: list[float]) -> dict[str, float]:
        found = {}
        for trait, (_, vector) in seen[i].items():
            less = {t: looks for t, looks in seen[i].items() if t != trait}
            with_it, without = (
                sum(
                    w * sum(self.joint(hatchling, looks, row[3]).values())
                    for w, row in zip(others, living, strict=True)
                )
                for looks in (seen[i], less)
            )
            found[trait] = with_it / without / max(vector)
        return {trait: expected for trait, expected in found.items() if expected < 0.05}

    def unlisted(self, seen: Json, prior: dict, given: list[str]) -> dict[str, float]:
        found = {}
        for gene, entry in self.genes.items():
            if gene in given:
                continue
            place = list(self.loci).index(entry["locus"])
            extra = (gene,) * (2 if entry["inheritance"] == "recessive" else 1)
            top = bottom = 0.0
            for (_, _, genotype), chance in prior.items():
                grown = tuple(sorted(genotype[place] + extra))
                changed = (*genotype[:place], grown, *genotype[place + 1 :]) if len(grown) <= 2 else genotype
                top += chance * self.likelihood(seen, changed)
                bottom += chance * self.likelihood(seen, genotype)
            found[gene] = top / bottom
        return {gene: factor for gene, factor in found.items() if factor >= 3}

    def parents(self, living: list, weights: list[float], document: Json) -> Json:
        def uncertain(animal: Json, whose: int) -> dict[str, list[float]]:
            stated = [state for state, _ in self.states(animal, whose >= 0)]
            found = {}
            for gene, entry in self.genes.items():
                chances = [0.0, 0.0, 0.0]
                for (dam, rows, _, _), weight in zip(living, weights, strict=True):
                    chances[(dam if whose < 0 else rows[whose])[entry["locus"]].count(gene)] += weight
                if len({state[entry["locus"]].count(gene) for state in stated}) > 1:
                    found[gene] = chances
            return found

        sires = [uncertain(sire, s) for s, sire in enumerate(document["sires"])]
        return {"dam": uncertain(document["dam"], -1), "sires": sires}

    # --- unknown parents -------------------------------------------------------------------------------------------

    def population(self, loads: list[Json]) -> dict[tuple, float]:
        """Every genotype with its chance among living captive-bred animals of all gene loads."""
        both: dict[tuple, float] = defaultdict(float)
        for load in loads:
            found: dict[tuple, float] = {(): load["weight"] / sum(one["weight"] for one in loads)}
            for locus in self.loci:
                genes = {g: e for g, e in self.genes.items() if e["locus"] == locus}
                alleles = {g: e.get("frequency", 0.01) * load["times"] for g, e in genes.items()}
                alleles[""] = 1 - sum(alleles.values())
                grown: dict[tuple, float] = defaultdict(float)
                for genotype, chance in found.items():
                    for (a, p), (b, q) in product(alleles.items(), repeat=2):
                        grown[(*genotype, tuple(sorted(filter(None, (a, b)))))] += chance * p * q
                found = grown
            for genotype, chance in found.items():
                both[genotype] += chance
        for genotype in both:
            for alleles in genotype:
                for gene in set(alleles):
                    both[genotype] *= self.genes[gene].get("viability", {}).get(str(alleles.count(gene)), 1)
        total = sum(both.values())
        return {genotype: chance / total for genotype, chance in both.items() if chance > 0}

    def identify_open(self, hatchling: Json, options: Json) -> Json:
        own = options.get("population") or self.own_population or [{"weight": 1, "times": 1}]
        prior = self.population(own)
        seen = self.evidence(hatchling)
        mass = {genotype: chance * self.likelihood(seen, genotype) for genotype, chance in prior.items()}
        total = sum(mass.values())
        if total == 0:
            return {"contradiction": True, "genotypes": prior, "log_evidence": None}
        sex = 0.5 if hatchling.get("sex") else 1.0
        posterior = {genotype: value / total for genotype, value in mass.items()}
        odd = {}
        for trait, (_, vector) in seen.items():
            less = {name: looks for name, looks in seen.items() if name != trait}
            without = sum(chance * self.likelihood(less, genotype) for genotype, chance in prior.items())
            odd[trait] = total / without / max(vector)
        return {
            "log_evidence": math.log(total * sex),
            "genotypes": posterior,
            "genes": {gene: self.copies({(0, True, g): p for g, p in posterior.items()}, gene) for gene in self.genes},
            "looks": self.looks(hatchling, posterior, options),
            "odd": {trait: expected for trait, expected in odd.items() if expected < 0.05},
        }
