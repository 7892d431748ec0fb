"""Small random catalogues and documents, always valid, that use every kind of rule of the contract."""

from __future__ import annotations

import random
from typing import Any

Json = dict[str, Any]
STAGES = ["egg", "wet", "blue", "shed", "months", "adult"]


def random_catalogue(r: random.Random) -> Json:
    """Four or five loci (one on the sex chromosomes, two linked), complexes, lethals, and all kinds of rules."""
    loci: list[Json] = [{"id": f"L{i}"} for i in range(r.randint(3, 4))]
    loci.append({"id": "S", "location": "sex", "recombination": r.choice([0, 0.05, 0.5, 1])})
    r.shuffle(loci)
    genes: list[Json] = []
    for locus in loci:
        for k in range(r.choice([1, 1, 2])):
            gene: Json = {"id": f"{locus['id']}g{k}", "locus": locus["id"]}
            gene["inheritance"] = r.choice(["recessive", "incomplete_dominant", "dominant"])
            if r.random() < 0.35:
                gene["viability"] = {"1": r.choice([0.5, 1]), "2": r.choice([0, 0.3, 1])}
            genes.append(gene)
    traits = [_trait(r, i) for i in range(4)]
    autosomal = [locus["id"] for locus in loci if locus["id"] != "S"]
    catalogue: Json = {"format": "eyot-catalogue/1", "loci": loci, "genes": genes, "traits": traits}
    catalogue["linkage"] = (
        [{"loci": autosomal[:2], "recombination": r.choice([0, 0.1, 0.5])}] if r.random() < 0.7 else []
    )
    catalogue["effects"] = [_effect(r, catalogue) for _ in range(9)]
    catalogue["dilutions"] = [_dilution(r, catalogue) for _ in range(3)]
    catalogue["masks"] = [_mask(r, catalogue, rank) for rank in range(4)]
    return catalogue


def _trait(r: random.Random, i: int) -> Json:
    levels: list[Json] = [{"id": f"v{k}"} for k in range(r.randint(2, 4))]
    levels[0]["base"] = r.uniform(0, 2)
    clarity = {stage: r.choice([0, 0.5, 0.9, 0.95, 1]) for stage in STAGES}
    trait: Json = {"id": f"T{i}", "region": "flank", "levels": levels, "clarity": clarity}
    if r.random() < 0.5:
        for level in levels:
            level["mistaken"] = r.choice([0, 0.1, 1, 2.5])
        levels[-1]["mistaken"] = 1
    if r.random() < 0.6:
        trait["scale"] = r.sample([level["id"] for level in levels], r.randint(2, len(levels)))
    return trait


def _when(r: random.Random, catalogue: Json, most: int = 2) -> list[Json]:
    found: list[Json] = []
    for _ in range(r.randint(1, most)):
        copies = sorted(r.sample([0, 1, 2], r.randint(1, 2)))
        kind = r.choice(["gene", "gene", "locus"])
        name = r.choice(catalogue["genes" if kind == "gene" else "loci"])["id"]
        found.append({kind: name, "copies": copies})
    return found


def _staged(r: random.Random, rule: Json) -> Json:
    return rule | {"stages": r.sample(STAGES, r.randint(1, 4))} if r.random() < 0.3 else rule


def _effect(r: random.Random, catalogue: Json) -> Json:
    trait = r.choice(catalogue["traits"])
    push = {level["id"]: r.uniform(-3, 3) for level in r.sample(trait["levels"], r.randint(1, 2))}
    effect: Json = {"when": _when(r, catalogue), "trait": trait["id"], "push": push}
    if "scale" in trait and r.random() < 0.7:
        effect["shift"] = r.uniform(-4, 4)
        if r.random() < 0.5:
            del effect["push"]
    return _staged(r, effect)


def _dilution(r: random.Random, catalogue: Json) -> Json:
    rule = {"when": _when(r, catalogue), "gene": r.choice(catalogue["genes"])["id"], "times": r.choice([0, 0.4, 1.5])}
    if r.random() < 0.5:
        rule["traits"] = [r.choice(catalogue["traits"])["id"]]
    return _staged(r, rule)


def _mask(r: random.Random, catalogue: Json, rank: int) -> Json:
    shown, hidden, damped = r.sample(catalogue["traits"], 3)
    rule: Json = {"when": _when(r, catalogue), "rank": rank}
    if r.random() < 0.7:
        cuts = sorted(r.random() for _ in shown["levels"][1:])
        shares = [b - a for a, b in zip([0.0, *cuts], [*cuts, 1.0], strict=True)]
        rule["show"] = {shown["id"]: {level["id"]: share for level, share in zip(shown["levels"], shares, strict=True)}}
    if r.random() < 0.5:
        rule["hide"] = [hidden["id"]]
    if r.random() < 0.7:
        rule["damp"] = {damped["id"]: r.choice([0, 0.3, 0.8])}
    return _staged(r, rule)


def random_animal(r: random.Random, catalogue: Json, *, sire: bool) -> Json:
    """A parent with up to three statements, some of them uncertain."""
    animal: Json = {"genes": []}
    room: dict[str, int] = {}
    chosen = r.sample(catalogue["genes"], r.randint(1, 3))
    if r.random() < 0.3:
        chosen.append(r.choice(chosen))  # two statements on one gene
    for gene in chosen:
        taken = room.get(gene["locus"], 0)
        if taken < 2:
            entry = _entry(r, gene["id"], most=2 - taken)
            room[gene["locus"]] = taken + (entry["copies"] if isinstance(entry["copies"], int) else 2)
            if sire and gene["locus"] == "S":
                sure = ["X", "Y"] if taken == 0 else []  # two that surely sit on one chromosome could not be
                entry["on"] = r.choice([*sure, {"X": 0.3, "Y": 0.7}, {"X": "1/4", "Y": "3/4"}])
            animal["genes"].append(entry)
    if catalogue["linkage"] and r.random() < 0.5:
        animal["phase"] = [{"loci": catalogue["linkage"][0]["loci"], "together": r.random() < 0.5}]
    if sire and r.random() < 0.5:
        animal["weight"] = r.choice([0, 0.5, 2])
    return animal


def _entry(r: random.Random, gene: str, most: int) -> Json:
    copies: Any = r.choice([1, 1, most])
    if most == 2 and r.random() < 0.2:
        copies = r.choice([{"1": 0.8, "2": 0.2}, {"0": "1/4", "2": "1/2"}])
    entry: Json = {"gene": gene, "copies": copies}
    if r.random() < 0.3:
        entry["chance"] = r.choice(["2/3", 0.5, "1/2"])
    return entry


def random_hatchling(r: random.Random, catalogue: Json, name: str, sires: int) -> Json:
    """A hatchling with up to five looks, some of one trait, some unseen; sex and sire sometimes known."""
    looks = []
    for _ in range(r.randint(0, 5)):
        trait = r.choice(catalogue["traits"])
        level = r.choice([*(level["id"] for level in trait["levels"]), "unseen"])
        look = {"trait": trait["id"], "level": level, "stage": r.choice(STAGES)}
        looks.append(look | ({"confidence": r.choice(["sure", "likely", "hint"])} if r.random() < 0.7 else {}))
    found: Json = {"id": name, "observations": looks}
    if r.random() < 0.3:
        found["sex"] = r.choice(["male", "female"])
    if r.random() < 0.2:
        found["sire"] = r.randrange(sires)
    return found


def random_document(seed: int) -> Json:
    """A whole ``identify`` document with its own catalogue."""
    r = random.Random(seed)
    catalogue = random_catalogue(r)
    sires = [random_animal(r, catalogue, sire=True) for _ in range(r.choice([1, 1, 2, 3]))]
    sires[0]["weight"] = sires[0].get("weight") or 1
    hatchlings = [random_hatchling(r, catalogue, str(i), len(sires)) for i in range(r.randint(1, 3))]
    options = {"look_stage": r.choice(STAGES)} if r.random() < 0.3 else {}
    options |= {"top": 10_000}
    dam = random_animal(r, catalogue, sire=False)
    return {"catalogue": catalogue, "dam": dam, "sires": sires, "hatchlings": hatchlings, "options": options}


def tied_catalogue(r: random.Random, loci: int = 60, genes: int = 87, traits: int = 35, most: int = 15) -> Json:
    """Loci that looks tie together: each look is touched by two to ``most`` of them, as rules of a whole catalogue do."""
    names = [f"L{i}" for i in range(loci)]
    made: list[Json] = []
    for i in range(genes):
        locus = names[i] if i < loci else r.choice(names[: max(4, loci // 5)])
        kind, frequency = r.choice(["recessive", "incomplete_dominant"]), r.choice([0.005, 0.01, 0.02, 0.03])
        made.append({"id": f"g{i}", "locus": locus, "inheritance": kind, "frequency": frequency})
    catalogue: Json = {"format": "eyot-catalogue/1", "loci": [{"id": name} for name in names], "genes": made}
    catalogue |= {"traits": [], "effects": [], "dilutions": [], "masks": []}
    for i in range(traits):
        _tie(r, catalogue, f"T{i}", r.sample(names, r.randint(2, min(most, loci))))
    return catalogue


def _tie(r: random.Random, catalogue: Json, name: str, touched: list[str]) -> None:
    """One more look that some loci have a say in: on their own, and some by a pair, a dilution or a mask."""
    levels: list[Json] = [
        {"id": f"v{k}", "base": r.uniform(0, 2) if k == 0 else r.uniform(-1, 0.5)} for k in range(r.randint(2, 5))
    ]
    trait: Json = {
        "id": name,
        "region": "flank",
        "levels": levels,
        "clarity": {s: r.choice([0.6, 0.9, 0.95]) for s in STAGES},
    }
    has_scale = len(levels) > 2 and r.random() < 0.5
    if has_scale:
        trait["scale"] = [level["id"] for level in levels]
    catalogue["traits"].append(trait)
    own = []
    for locus in touched:
        one = r.choice([gene for gene in catalogue["genes"] if gene["locus"] == locus])
        own.append(one["id"])
        copies = [2] if one["inheritance"] == "recessive" else r.choice([[1], [1, 2]])
        effect: Json = {"when": [{"gene": one["id"], "copies": copies}], "trait": name}
        if has_scale and r.random() < 0.5:
            effect["shift"] = r.uniform(-4, 4)
        else:
            effect["push"] = {r.choice(levels)["id"]: r.uniform(1, 4)}
        catalogue["effects"].append(effect)
    if r.random() < 0.4:
        both = [{"locus": locus, "copies": [1, 2]} for locus in r.sample(touched, 2)]
        catalogue["effects"].append({"when": both, "trait": name, "push": {r.choice(levels)["id"]: r.uniform(1, 3)}})
    if r.random() < 0.5:
        when = [{"locus": r.choice(touched), "copies": [1, 2]}]
        catalogue["dilutions"].append({"when": when, "gene": r.choice(own), "traits": [name], "times": 0.4})
    if r.random() < 0.25:
        shows = {name: {levels[-1]["id"]: 1.0}}
        mask = {"when": [{"locus": r.choice(touched), "copies": [2]}], "rank": len(catalogue["traits"]), "show": shows}
        catalogue["masks"].append(mask)


def tied_document(seed: int, answered: int, **size: int) -> Json:
    """An animal of unknown parents with some looks at random, over a catalogue whose looks tie its loci together."""
    r = random.Random(seed)
    catalogue = tied_catalogue(r, **size)
    looks = [
        {"trait": trait["id"], "level": r.choice(trait["levels"])["id"], "stage": "shed"}
        for trait in r.sample(catalogue["traits"], answered)
    ]
    hatchling = {"id": "1", "observations": looks}
    return {"catalogue": catalogue, "dam": None, "sires": [], "hatchlings": [hatchling], "options": {}}
