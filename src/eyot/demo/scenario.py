"""The made-up collection Withy Bed: who is in it and how its season stands. Days count back from the day of loading."""

from __future__ import annotations

from dataclasses import dataclass, field

NAME = "Withy Bed"
S, B, T, D, P = "seen", "bred", "tested", "declared", "possible"


@dataclass(frozen=True)
class DemoGene:
    """One statement on a parent."""

    gene: str
    known: str
    copies: int = 1
    chance: str = "1"
    on: str = ""


@dataclass(frozen=True)
class DemoAnimal:
    """One animal."""

    name: str
    sex: str
    age: int
    genes: tuple[DemoGene, ...] = ()
    note: str = ""


@dataclass(frozen=True)
class DemoEgg:
    """One egg: its state and, where it is open, the true genotype (never shown on the bench)."""

    state: str
    stage: str = "egg"
    truth: str = ""
    sex: str = ""
    sire: int = 0
    note: str = ""
    guess: str = ""


@dataclass(frozen=True)
class DemoClutch:
    """One clutch. Days are days ago; ``None``: not yet."""

    code: str
    dam: str
    sires: tuple[str, ...]
    laid: int | None
    cut: int | None = None
    out: int | None = None
    shed: int | None = None
    closed: int | None = None
    place: str = ""
    substrate: str = ""
    note: str = ""
    eggs: tuple[DemoEgg, ...] = ()
    locks: tuple[int, ...] = field(default=())


def _g(gene: str, known: str = S, **more: object) -> DemoGene:
    return DemoGene(gene, known, **more)  # type: ignore[arg-type]


PARENTS = (
    DemoAnimal("Marram", "female", 5, (_g("mojave"), _g("yellow_belly"), _g("piebald", P, chance="2/3"))),
    DemoAnimal("Fathom", "male", 4, (_g("leopard"), _g("black_pastel"), _g("piebald", B))),
    DemoAnimal("Sallow", "female", 6, (_g("vanilla"), _g("enchi"))),
    DemoAnimal("Culm", "male", 4, (_g("fire"), _g("pinstripe"), _g("banana", on="Y"))),
    DemoAnimal("Osier", "female", 5, (_g("cinnamon"), _g("hypo", T))),
    DemoAnimal("Tarn", "male", 3, (_g("phantom"), _g("hypo", B))),
    DemoAnimal("Rill", "male", 3, (_g("ghi"), _g("pastel"))),
    DemoAnimal("Teasel", "female", 7, (_g("axanthic_a", copies=2),)),
    DemoAnimal("Eddy", "male", 4, (_g("axanthic_b", B),)),
    DemoAnimal("Coot", "female", 5, (_g("spider"), _g("pastel"))),
    DemoAnimal("Dabble", "male", 4, (_g("woma"), _g("orange_dream"))),
    DemoAnimal("Sedge", "female", 6, (_g("orange_dream"), _g("ultramel", D))),
    DemoAnimal("Bittern", "male", 5, (_g("ultramel", copies=2), _g("gravel"))),
    DemoAnimal("Fescue", "female", 9, (_g("mojave"), _g("piebald", B))),
    DemoAnimal("Drake", "male", 9, (_g("yellow_belly"), _g("piebald", B))),
    DemoAnimal("Bulrush", "female", 8, (_g("pinstripe"),)),
    DemoAnimal("Whimbrel", "male", 8, (_g("fire"), _g("banana", on="Y"))),
)
PEDIGREE = {
    "Marram": ("Fescue", "Drake"),
    "Culm": ("Bulrush", "Whimbrel"),
    "Hollow": ("Ramson", "Lapwing"),
    "Iris": ("Ramson", "Lapwing"),
    "Teal": ("Kingcup", "Hollow"),
    "Moss": ("Kingcup", "Hollow"),
    "Shingle": ("Kingcup", "Hollow"),
}
"""Dam and sire of animals whose parents are here."""
BRED_BEFORE = (("Nettle", "hypo", "het", 5, 0, 330), ("Thicket", "ultramel", "visual", 4, 1, 310))
"""Breedings before the record: animal, gene, partner, hatchlings, visuals, days ago."""
TESTED_BEFORE = (("Reed", "ultramel", "clear", 120),)
"""Results of the simulated laboratory: animal, gene, result, days ago."""
NEW_TRAIT = (
    "Tidemark",
    "a pale wash along the belly edge",
    {
        "Ramson": "yes",
        "Lapwing": "no",
        "Hollow": "yes",
        "Iris": "no",
        "Kingcup": "no",
        "Teal": "yes",
        "Moss": "no",
        "Shingle": "no",
    },
)
"""A trait on the proving desk: name, looks, and who shows it."""
HELD_BACK = {("V-09", 1): "Quillet", ("V-09", 3): "Bract"}
"""Hatchlings that stayed, under the names they were given."""
LIGHT = {"Coot": 1420.0}
"""Weights in grams of animals lighter than they should be for what is planned."""
OTHER_NAMES = [
    "Alder",
    "Brook",
    "Burdock",
    "Catkin",
    "Comfrey",
    "Cress",
    "Dipper",
    "Fen",
    "Flag",
    "Heron",
    "Hollow",
    "Iris",
    "Kingcup",
    "Lapwing",
    "Loosestrife",
    "Mallow",
    "Meadow",
    "Mere",
    "Moss",
    "Nettle",
    "Oxbow",
    "Pebble",
    "Plover",
    "Ramson",
    "Reed",
    "Rush",
    "Sandpiper",
    "Shingle",
    "Shoal",
    "Silt",
    "Snipe",
    "Sorrel",
    "Speedwell",
    "Spate",
    "Starwort",
    "Tansy",
    "Teal",
    "Thicket",
    "Warbler",
    "Weir",
]
OTHER_GENES: tuple[tuple[DemoGene, ...], ...] = (
    (_g("pastel"),),
    (_g("enchi"), _g("leopard")),
    (),
    (_g("pinstripe"),),
    (_g("piebald", copies=2),),
    (_g("fire"), _g("yellow_belly")),
    (_g("hypo", P, chance="1/2"),),
    (_g("cinnamon"), _g("pastel")),
    (_g("mojave"), _g("hypo", D)),
    (_g("orange_dream"), _g("enchi")),
    (_g("tidemark", S),),
    (_g("ultramel", P, chance="2/3"), _g("gravel")),
    (_g("black_pastel"),),
)


def _truth(text: str, **more: object) -> DemoEgg:
    return DemoEgg(truth=text, **more)  # type: ignore[arg-type]


def _w04(text: str, guess: str, note: str = "") -> DemoEgg:
    return _truth(text, state="open", stage="egg", guess=guess, note=note)


def _w02(text: str, sex: str) -> DemoEgg:
    return _truth(text, state="out", stage="shed", sex=sex)


def _v(text: str) -> DemoEgg:
    return _truth(text, state="out", stage="shed")


def _w03(text: str, sire: int) -> DemoEgg:
    return _truth(text, state="out", stage="blue", sire=sire)


CLUTCHES = (
    DemoClutch(
        "W-04",
        "Marram",
        ("Fathom",),
        laid=58,
        cut=0,
        place="box 2, second shelf",
        substrate="vermiculite",
        note="Egg 4: yolk still large, window kept small. Look again tomorrow.",
        eggs=(
            _w04("mojave black_pastel", "Mojave Black Pastel?"),
            _w04("leopard yellow_belly", "Leopard"),
            _w04("piebald piebald leopard", "Leopard?", "the first coil in the window is not all one colour"),
            _w04("mojave piebald", "Mojave"),
            _w04("leopard mojave yellow_belly piebald", "Mojave? Leopard?"),
            DemoEgg("dented"),
            DemoEgg("shut"),
        ),
    ),
    DemoClutch(
        "W-02",
        "Sallow",
        ("Culm",),
        laid=82,
        cut=24,
        out=22,
        shed=10,
        place="tubs 11 to 15",
        note="One slug. Egg 3 looks banana and was popped female: check the sexing.",
        eggs=(
            _w02("fire enchi", "female"),
            _w02("vanilla fire", "female"),
            _w02("banana pinstripe", "female"),
            _w02("enchi pinstripe vanilla", "male"),
            _w02("banana fire enchi", "male"),
            DemoEgg("slug"),
        ),
    ),
    DemoClutch(
        "W-03",
        "Osier",
        ("Tarn", "Rill"),
        laid=66,
        cut=8,
        out=6,
        place="tubs 3 to 10",
        note="Two sires this season. In the blue: leave colours for the shed.",
        eggs=(
            _w03("cinnamon phantom", 0),
            _w03("ghi cinnamon", 1),
            _w03("hypo hypo", 0),
            _w03("pastel", 1),
            _w03("cinnamon hypo hypo phantom", 0),
            _w03("ghi pastel", 1),
            _w03("hypo", 0),
            _w03("cinnamon pastel", 1),
        ),
    ),
    DemoClutch(
        "W-06",
        "Teasel",
        ("Eddy",),
        laid=40,
        place="box 1, top shelf",
        substrate="perlite",
        note="Two axanthic lines: they do not complement. Normal-looking double hets at best; decide whether to keep any.",
        eggs=(DemoEgg("shut"),) * 6,
    ),
    DemoClutch(
        "W-07",
        "Coot",
        ("Dabble",),
        laid=None,
        note="Spider: wobble in all to some degree. Read the welfare note before pairing again.",
        locks=(64, 51, 37, 22, 9),
    ),
    DemoClutch(
        "V-05",
        "Fescue",
        ("Culm",),
        laid=452,
        cut=394,
        out=392,
        shed=380,
        closed=310,
        note="Called by eye after the first shed; all tested since.",
        eggs=tuple(
            _v(text)
            for text in (
                "mojave pinstripe",
                "fire",
                "mojave fire pinstripe",
                "",
                "pinstripe piebald",
                "mojave",
                "fire pinstripe",
                "mojave banana",
            )
        ),
    ),
    DemoClutch(
        "V-06",
        "Cress",
        ("Brook",),
        laid=447,
        cut=389,
        out=387,
        shed=375,
        closed=308,
        note="Called by eye after the first shed; all tested since.",
        eggs=tuple(
            _v(text)
            for text in (
                "fire enchi",
                "yellow_belly leopard",
                "enchi leopard",
                "fire yellow_belly",
                "fire enchi leopard",
                "yellow_belly enchi",
                "",
                "fire yellow_belly leopard",
            )
        ),
    ),
    DemoClutch(
        "V-09",
        "Sedge",
        ("Bittern",),
        laid=430,
        cut=372,
        out=370,
        shed=358,
        closed=300,
        note="Calls proven by shed tests.",
        eggs=(
            _truth("ultramel ultramel orange_dream", state="out", stage="adult", sex="female"),
            _truth("ultramel gravel", state="out", stage="adult", sex="male"),
            _truth("ultramel ultramel gravel", state="out", stage="adult", sex="male"),
            _truth("ultramel orange_dream gravel", state="out", stage="adult", sex="female"),
        ),
    ),
)
GROWN = {
    "Sallow": "vanilla enchi",
    "Culm": "fire pinstripe banana",
    "Marram": "mojave yellow_belly",
    "Fathom": "leopard black_pastel",
}
"""Parents that were photographed, from above and from below, with what they truly are."""


@dataclass(frozen=True)
class DemoBought:
    """An animal that was bought: what it was sold as, how far that is trusted in per cent, what it truly is, what was looked at."""

    name: str
    sex: str
    age: int
    note: str
    claim: str
    trust: int
    truth: str
    looked_at: tuple[str, ...]


BOUGHT = DemoBought(
    "Wherry",
    "female",
    2,
    "Bought at two years, without papers.",
    "pastel enchi, possible fire, het clown",
    80,
    "pastel fire",
    ("eye_color", "head_lightness", "lightness", "lobe_spots", "lobe_shape", "banding", "dark_pigment", "belly_edge"),
)
"""The animal on the table."""
CALLED_BY_LOOKS = ("V-05", "V-06")
"""Clutches of last year whose hatchlings were looked at, called by what that said, and tested since; their photos were not kept."""
OVERRIDES: tuple[dict[str, object], ...] = (
    {
        "kind": "gene",
        "id": "tidemark",
        "name": "Tidemark",
        "inheritance": "incomplete_dominant",
        "note": "own trait, not proven yet: a pale line along the flank where the belly begins",
        "one": {"side_white": {"low": 1.5}, "belly_edge": {"clean": 1}},
    },
    {"kind": "name", "gene": "axanthic_a", "name": "Axanthic, Sluice line"},
)
"""In what the collection sees the catalogue otherwise."""
PLACES = ((0.12, 0.04), (0.5, 0.0), (0.9, 0.06), (0.08, 0.5), (0.52, 0.45), (0.92, 0.5), (0.3, 0.96), (0.74, 0.98))
"""Where eggs lie in a box, across and down."""

ANSWERED: dict[str, dict[int, tuple[str, ...]]] = {
    "W-04": {1: ("lobe_spots", "lightness"), 2: ("lobe_shape",)},
    "W-02": {
        1: ("head_lightness", "head_stamp", "banding", "flank_lines", "dark_pigment", "lobe_tone"),
        2: ("head_lightness", "head_stamp", "head_blush", "lightness", "flank_lines", "dark_pigment", "banding"),
        3: ("dark_pigment", "flank_lines", "lobe_attach", "head_stamp"),
        4: ("flank_lines", "pattern_amount", "head_stamp", "dark_pigment"),
    },
    "W-03": {3: ("dark_pigment", "head_stamp"), 6: ("lightness", "lobe_shape")},
}
"""Which looks the keeper has answered already; their answers are drawn from the true genotype, with a keeper's mistakes."""


@dataclass(frozen=True)
class DemoCall:
    """One call: of each gene that the pairing can give a verdict; those not named are "not"."""

    verdicts: dict[str, tuple[str, int]]
    note: str


PROVEN = "Confirmed by a shed test (simulated)."
CALLED: dict[str, dict[int, DemoCall]] = {
    "V-09": {
        1: DemoCall({"ultramel": ("sure", 2), "orange_dream": ("sure", 1)}, PROVEN),
        2: DemoCall({"gravel": ("sure", 1)}, PROVEN),
        3: DemoCall({"ultramel": ("sure", 2), "gravel": ("sure", 1)}, PROVEN),
        4: DemoCall({"orange_dream": ("sure", 1), "gravel": ("sure", 1)}, PROVEN),
    },
    "W-02": {1: DemoCall({"fire": ("likely", 1), "enchi": ("likely", 1), "vanilla": ("possible", 1)}, "Head pale.")},
}
"""Calls that the keeper has made already."""
