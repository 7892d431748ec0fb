"""Lines of genes as breeders write them, what each is understood as, and back."""

from __future__ import annotations

import json
import random
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

import yaml

from eyot_core.catalogue import builtin_catalogue
from eyot_core.catalogue.read import catalogue_from
from eyot_core.parsing import Node
from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import Question, Statement, Understood, answered, written

NAMES = Lookup(builtin_catalogue())
ROOT = Path(__file__).parents[2]
WORDS = ROOT / "src/eyot_core/wording/data/line.yaml"
SMALL = ROOT / "docs/formats/examples/own-catalogue.json"
"""A catalogue of two genes, Pastel and one of its keeper's own."""

TABLE = """
pastel | pastel
Pastel Enchi | pastel, enchi
ENCHI pastel | enchi, pastel
pastel, enchi | pastel, enchi
pastel + enchi & fire | pastel, enchi, fire
pastel enchi 66% het clown | pastel, enchi, clown 2/3
66% het clown pastel enchi | clown 2/3, pastel, enchi
pastel enchi 66 % het clown | pastel, enchi, clown 2/3
pastel 66% clown | pastel, clown 2/3 ask
pastel 50% poss het pied | pastel, piebald 1/2
pastel poss het pied 50% | pastel, piebald 1/2
pastel 100% het pied | pastel, piebald 1
pastel 100 percent het pied | pastel, piebald 1
pastel 33% het pied | pastel, piebald 1/3
pastel 25% het pied | pastel, piebald 1/4
pastel 2/3 het pied | pastel, piebald 2/3
67% het hypo | hypo 2/3
het clown | clown 1
het for clown | clown 1
clown | clown 2
visual clown | clown 2
clown het pied | clown 2, piebald 1
het pied clown | piebald 1 ask
het pied visual clown | piebald 1, clown 2
dh clown pied | clown 1, piebald 1
DH pied/hypo | piebald 1, hypo 1
double het clown pied | clown 1, piebald 1
th clown pied hypo | clown 1, piebald 1, hypo 1
66% dh clown pied | clown 2/3, piebald 2/3
66% double het clown and pied | clown 2/3, piebald 2/3
ph clown | clown 1/2
possible het clown | clown 1/2
poss clown | clown 1/2 ask
pastel het axanthic line a | pastel, axanthic_a 1
super pastel | pastel 2
Super Pastel poss YB | pastel 2, yellow_belly 1/2
super pastel maybe yellow belly | pastel 2, yellow_belly 1/2
pastel yb? | pastel, yellow_belly 1/2
40% yb | yellow_belly 2/5
pastel x2 | pastel 2
pastel (2) enchi | pastel 2, enchi
pastel pastel | pastel ask
homozygous pastel | pastel 2
pastel (super) | pastel 2
pastel poss super | pastel two 1/2
pastel or super | pastel two 1/2
pastel (poss super) | pastel two 1/2
pastel (super?) enchi | pastel two 1/2, enchi
super pastel? | pastel two 1/2
poss super enchi | enchi two 1/2
might be super enchi | enchi two 1/2
pastel (25% poss super) | pastel two 1/4
banana (male maker) | banana Y
Banana (Female Maker) | banana X
banana mm | banana Y
coral glow female maker pinstripe | banana X, pinstripe
coral-glow | banana
bumblebee | pastel, spider
killer bee het pied | pastel 2, spider, piebald 1
lemon blast 66% het hypo | pastel, pinstripe, hypo 2/3
pewter clown | pastel, cinnamon, clown 2
firefly yb | pastel, fire, yellow_belly
ivory | yellow_belly 2
HRA | het_red_axanthic
het red axanthic | het_red_axanthic
red axanthic | het_red_axanthic 2
cinny mojo | cinnamon, mojave
cinnamon pastel | cinnamon ask
cinnamon, pastel | cinnamon, pastel
het enchi | enchi
proven het clown | clown 1 bred
het clown (proven) | clown 1 bred
dna tested het clown | clown 1 tested
het clown (tested) pastel | clown 1 tested, pastel
pastel enchi male | pastel, enchi, male
1.0 pastel enchi | pastel, enchi, male
0.1 pastel het pied | pastel, piebald 1, female
banana pastel female | banana, pastel, female
normal | nothing
normal het clown | clown 1
wild type 66% het pied | piebald 2/3
pastle enchii | pastel, enchi guessed
pastel wibblefish | pastel unknown
het clown 66% | clown 2/3
het clown (66%) | clown 2/3
66 het clown | clown 2/3
clown het | clown 1
clown het, enchi | clown 1, enchi
clown (poss) | clown 1/2 ask
hets: clown, pied | clown 1, piebald 1
hets clown, pied, enchi, hypo | clown 1, piebald 1, enchi, hypo 2
66% hets clown, pied | clown 2/3, piebald 2/3
quad het clown pied hypo albino | clown 1, piebald 1, hypo 1, albino 1
het clown and pied | clown 1 ask
axanthic | nothing ask
axanthic pied | piebald 2 ask
axanthic clown | clown 2 ask
axanthic enchi | enchi ask
axanthic bee | spider ask
66% het axanthic | nothing ask
some axanthic | axanthic_a 1/4, axanthic_b 1/4, axanthic_c 1/4, axanthic_d 1/4
66% het some axanthic | axanthic_a 1/6, axanthic_b 1/6, axanthic_c 1/6, axanthic_d 1/6
snow | albino 2 ask
T+ albino | nothing ask
blue eyed leucistic | nothing ask
BEL pied | piebald 2 ask
BEL (mojave/lesser) | mojave, lesser
lesser/mojave BEL, het clown | clown 1, lesser, mojave
BEL, mojave lesser | mojave, lesser
Lesser, Mojave (mojave/lesser) | lesser, mojave
blue eyed leucistic mojave/mojave | mojave 2
white (mojave/lesser) | mojave, lesser
mojave/mojave/mojave | nothing ask
clown/clown | clown 2
dh clown pied, clown/pied | clown 1, piebald 1 ask
BEL mojave or lesser | nothing ask
BEL lesser | lesser ask
BEL poss mojave/lesser | nothing ask
mojave/lesser clown | clown 2 ask
bee spider | spider ask
queen bee | pastel, spider ask
silver bullet | pastel ask
mojave or special | nothing ask
either mojave or special, enchi | enchi ask
mojave/special | nothing ask
some axanthic or pastel | nothing ask
het clown or pied | nothing ask
possible pinstripe, spider and pastel | pinstripe 1/2, spider 1/2, pastel 1/2
possible pinstripe, spider | pinstripe 1/2, spider
burn yellow belly | yellow_belly unknown
pastel bongo enchi | pastel, enchi unknown
SE OD DG | enchi 2, orange_dream, desert_ghost 2
ODYB g-stripe | orange_dream, yellow_belly, genetic_stripe 2
champ leo choc mahog | champagne, leopard, chocolate, mahogany
CG mm boy | banana Y, male
2x pastel, enchi two copies | pastel 2, enchi 2
pastel one or two copies | pastel two 1/2
no pastel, not clown, enchi | enchi
adult breeder girl enchi high white 1500g 2021 $500 | enchi, female
pewter blast | pastel, cinnamon, pinstripe
super blast | pastel 2, pinstripe
super fly super stripe | pastel 2, fire, yellow_belly, specter
yelow belly | yellow_belly guessed
scorch | nothing unknown
super | nothing unknown
yellowbelly desertghost | yellow_belly, desert_ghost 2
black head | blackhead
bumble bee | pastel, spider
fire fly | pastel, fire
lav albino | lavender_albino 2
axanthic (line B) | axanthic_b 2
Enchi, possible super | enchi two 1/2
enchi, maybe 2 copies, het clown | enchi two 1/2, clown 1
pastel, super enchi | pastel, enchi 2
super het clown | nothing ask
het super pastel | nothing ask
pastel het burn | pastel unknown
het burn clown | nothing ask unknown
pastel poss burn enchi | pastel, enchi unknown
burn or pastel | pastel 1/2 unknown
pastel/burn enchi | pastel 1/2, enchi unknown
stranger | nothing unknown
"""


def shape(read: Understood) -> str:
    """An answer in the table's words."""
    genes = NAMES.catalogue.genes
    parts = []
    for one in read.statements:
        words = [one.gene]
        if one.chance != "1":
            words.append(one.chance)
        elif one.copies == 2 or genes[one.gene].is_recessive:
            words.append(str(one.copies))
        words += ["two", one.two_chance] if one.two_chance else []
        words += [one.on] if one.on else []
        words += [one.known] if one.known in ("bred", "tested") else []
        parts.append(" ".join(words))
    parts += [read.sex] if read.sex else []
    message = [
        word for word, there in (("ask", read.questions), ("guessed", read.guessed), ("unknown", read.unknown)) if there
    ]
    return " ".join([", ".join(parts) or "nothing", *message])


def all_words(data: object) -> Iterator[str]:
    """Every word and phrase that lines are read by."""
    if isinstance(data, dict):
        for key, value in data.items():
            yield str(key)
            yield from all_words(value)
    elif isinstance(data, list):
        for value in data:
            yield from all_words(value)
    else:
        yield str(data)


class AnyLine(TestCase):
    """Whatever stands together, something is answered, also under a catalogue that knows two genes only."""

    def test_no_words_in_any_order_are_too_much(self) -> None:
        phrases = [*sorted({*all_words(yaml.safe_load(WORDS.read_text()))}), "Mojave", "Lesser", "Pastel", "Clown"]
        small = Lookup(catalogue_from(Node(json.loads(SMALL.read_text())["catalogue"])))
        by_chance = random.Random(3)
        for names in (NAMES, small):
            known = set(names.catalogue.genes)
            for phrase in phrases:
                self.assertLessEqual({one.gene for one in understood(names, phrase).statements}, known, phrase)
            for _ in range(1200):
                chosen = by_chance.choices(phrases, k=by_chance.randint(2, 5))
                text = " ".join(word + by_chance.choice(("", "", ",", "/", " (", ")", " or")) for word in chosen)
                read = understood(names, text)
                self.assertLessEqual({one.gene for one in read.statements}, known, text)
                self.assertTrue(all(one.choices for one in read.questions), text)

    def test_of_a_word_for_several_kinds_those_are_asked_that_the_catalogue_knows(self) -> None:
        small = Lookup(catalogue_from(Node(json.loads(SMALL.read_text())["catalogue"])))
        for text, unknown in (("BEL pastel", ["BEL"]), ("some axanthic", ["some axanthic"]), ("stripe", ["stripe"])):
            read = understood(small, text)
            self.assertEqual(([word for word, _ in read.unknown], read.questions), (unknown, ()), text)


class Lines(TestCase):
    def test_eighty_ways_of_writing(self) -> None:
        rows = [row.split(" | ") for row in TABLE.strip().splitlines()]
        self.assertGreaterEqual(len(rows), 60)
        for text, wanted in rows:
            with self.subTest(text):
                self.assertEqual(shape(understood(NAMES, text)), wanted)

    def test_a_name_may_stand_before_a_colon(self) -> None:
        read = understood(NAMES, "Great  Marram: mojave yb")
        self.assertEqual((read.name, read.genes), ("Great Marram", (("mojave", 1), ("yellow_belly", 1))))

    def test_a_name_may_stand_in_quotation_marks_after_named_or_before_a_dash(self) -> None:
        for text in ('"Little Fern" pastel', "pastel “Little Fern”", "Little Fern - pastel"):
            self.assertEqual(
                (understood(NAMES, text).name, understood(NAMES, text).genes), ("Little Fern", (("pastel", 1),)), text
            )
        self.assertEqual(understood(NAMES, "pastel male named Fern").name, "Fern")
        self.assertEqual(understood(NAMES, "pastel - enchi").name, "")

    def test_what_is_not_understood_comes_back_as_it_was_written_and_takes_its_own_words_along(self) -> None:
        self.assertEqual(
            [word for word, _ in understood(NAMES, "het Burn, super Xyzzy, Stranger").unknown],
            ["Burn", "Xyzzy", "Stranger"],
        )

    def test_questions_say_what_was_taken_and_how_to_write_the_other(self) -> None:
        self.assertEqual(
            understood(NAMES, "het pied clown").questions,
            (Question("clown", "Is Clown carried too, or does it show?", ("het Clown", "visual Clown"), 9, 14),),
        )
        self.assertIn("50 % was taken", understood(NAMES, "poss yb").notes[0])

    def test_one_copy_or_two_is_asked_with_both(self) -> None:
        question = understood(NAMES, "pastel or super pastel").questions[0]
        self.assertEqual(question.choices, ("Pastel", "Super pastel"))

    def test_every_choice_pressed_leaves_one_question_less_and_all_else_as_it_was(self) -> None:
        for line in (
            "Pastel axanthic  66% het clown",
            "enchi mojave/special pied",
            "het pied clown",
            "Snow, leopard",
            "cinnamon pastel yb",
        ):
            read = understood(NAMES, line)
            for question in read.questions:
                for choice in question.choices:
                    with self.subTest(f"{line}: {choice}"):
                        again = understood(NAMES, answered(line, question, choice))
                        self.assertEqual((len(again.questions), again.unknown), (len(read.questions) - 1, ()))
                        self.assertLessEqual(
                            {one.gene for one in read.statements}, {one.gene for one in again.statements}
                        )

    def test_what_is_left_open_is_told_for_the_notes(self) -> None:
        message = understood(NAMES, "axanthic burn enchi").left_open
        self.assertIn("“burn”", message)
        self.assertIn("“axanthic”: Which line of axanthic?", message)
        self.assertEqual(understood(NAMES, "enchi 66% het clown").left_open, "")

    def test_what_no_animal_can_be_is_said(self) -> None:
        self.assertEqual(understood(NAMES, "mojave lesser").impossible, ())
        self.assertIn(
            "Mojave and Lesser and Butter sit at one locus", understood(NAMES, "mojave lesser butter").impossible[0]
        )
        self.assertIn("one locus", understood(NAMES, "super mojave lesser").impossible[0])
        self.assertIn("A female has no Y", understood(NAMES, "banana (male maker) female").impossible[0])

    def test_a_maker_of_a_gene_that_is_not_sex_linked_is_left_out_and_asked_about(self) -> None:
        read = understood(NAMES, "pastel (male maker)")
        self.assertEqual((read.statements[0].on, len(read.notes)), ("", 1))

    def test_every_statement_reads_back_as_itself(self) -> None:
        every = [
            Statement("clown", 1, "declared"),
            Statement("clown", 1, "possible", "2/3"),
            Statement("clown", 1, "possible", "3/7"),
            Statement("clown", 1, "tested"),
            Statement("clown", 2, "seen"),
            Statement("clown", 2, "possible", "1/2"),
            Statement("pastel", 1, "possible", "2/5"),
            Statement("pastel", 2, "bred"),
            Statement("enchi", 1, "seen", two_chance="1/2"),
            Statement("enchi", 1, "seen", two_chance="1/4"),
            Statement("banana", 1, "seen", on="Y"),
            Statement("banana", 1, "bred", on="X"),
            *(Statement(gene, copies, "seen") for gene in NAMES.catalogue.genes for copies in (1, 2)),
        ]
        for one in every:
            if NAMES.catalogue.genes[one.gene].is_recessive and one.copies == 1 and one.known == "seen":
                continue
            with self.subTest(written(one, NAMES)):
                self.assertEqual(understood(NAMES, written(one, NAMES)).statements, (one,))

    def test_a_whole_animal_reads_back_as_itself_in_any_order(self) -> None:
        animal = [
            Statement("mojave", 1, "seen"),
            Statement("piebald", 1, "possible", "2/3"),
            Statement("hypo", 1, "tested"),
            Statement("clown", 2, "seen"),
            Statement("banana", 1, "seen", on="Y"),
        ]
        words = [written(one, NAMES) for one in animal]
        for order in (animal, animal[::-1]):
            line = ", ".join(written(one, NAMES) for one in order)
            with self.subTest(line):
                self.assertEqual(set(understood(NAMES, line).statements), set(animal))
        self.assertEqual(words[1], "66% het Piebald")
