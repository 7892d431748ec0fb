"""What is said aloud, as looks to confirm."""

from __future__ import annotations

import json
from pathlib import Path
from unittest import TestCase

from eyot_core.catalogue import builtin_catalogue
from eyot_core.catalogue.read import catalogue_from
from eyot_core.parsing import Node
from eyot_core.wording.dictation import dictated, vocabulary

from tests.core.test_bad_input import ran

CATALOGUE = builtin_catalogue()
SAID = Path(__file__).parent / "said.txt"
CLARITY = {"egg": 0.5, "wet": 0.7, "blue": 0.5, "shed": 0.9, "months": 0.9, "adult": 0.8}
NAMED_BY_LEVELS = ("lightness", "side_white")
"""Looks whose names hold names of levels: "Lighter or darker", "White on the sides"."""
TABLE = """
floating lobes | lobe_attach floating
lobes float | lobe_attach floating
keyhole lobes | lobe_shape keyhole
head is pale | head_lightness lighter
dark head | head_lightness darker
head stamp is wiped | head_stamp wiped
busy head stamp | head_stamp busy
green eyes | eye_color green
wide eye stripe | eye_stripe_width wide
eye stripe jagged | eye_stripe_edge jagged
white lips | lip_color white
full back stripe | dorsal_stripe full
broken dorsal stripe | dorsal_stripe partial
no freckles | freckles none
many freckles | freckles many
belly edge jagged | belly_edge jagged
clear belly | belly_color clear
strong banding | banding strong
patternless | pattern_amount patternless
frosted blacks | dark_pigment frosted
high contrast | contrast high
white saddles | white_layout saddles
no ringer | ringer none
full ringer | ringer full
strong flames | flank_flames strong
orange lobes | lobe_tone orange
zigzag | banding zigzag
the lobes are floating | lobe_attach floating
alien heads reduced | pattern_amount reduced
really pale head | head_lightness lighter
head is washed out | head_stamp washed_out
washed out head stamp | head_stamp washed_out
no head stamp | head_stamp wiped
stamp is wiped | head_stamp wiped
busy head | head_stamp busy
eyes are green | eye_color green
red eyes | eye_color red
no eye stripe | eye_stripe_width missing
lips are pretty white | lip_color white
blushing on the neck | neck_blush strong
slight neck blush | neck_blush slight
no neck blush | neck_blush none
full dorsal stripe | dorsal_stripe full
broken back stripe | dorsal_stripe partial
no stripe on the back | dorsal_stripe none
bands | banding some
banded | banding some
keyholes | lobe_shape keyhole
lobes fused lengthwise | lobe_shape joined
two dots in each lobe | lobe_spots two
no dots in the lobes | lobe_spots none
clean lobes | lobe_spots none
single dot in the lobes | lobe_spots one
strong outline around the lobes | lobe_outline strong
brown lobes | lobe_tone brown
pattern is reduced | pattern_amount reduced
really reduced pattern | pattern_amount strong_reduced
busy pattern | pattern_amount busy
not much pattern | pattern_amount reduced
scrambled pattern | pattern_order scrambled
granite pattern | pattern_order granite
webbing on the sides | flank_lines web
no lines on the flank | flank_lines none
pinstripes on the side | flank_lines pin
blushing on the flanks | flank_blush strong
no blushing on the sides | flank_blush none
flames | flank_flames some
lots of flames | flank_flames strong
a bit of flaming | flank_flames some
no flames | flank_flames none
flames coming up from the belly | flank_flames some
white high up the sides | side_white high
salt and pepper | ground_speckle peppered
speckled ground | ground_speckle peppered
belly edge checkered | belly_edge jagged
checkered belly edge | belly_edge jagged
jagged belly edge | belly_edge jagged
belly is checkered | belly_marks checkered
yellow belly | belly_color yellow
white belly | belly_color white
belly has tracks | belly_marks tracks
no marks on the belly | belly_marks none
tail is striped | tail_pattern striped
very dark animal | lightness very_dark
dark animal | lightness darker
bright baby | lightness lighter
super bright | lightness very_light
low contrast | contrast low
not much contrast | contrast low
purple blacks | dark_pigment purple
blacks are frosted | dark_pigment frosted
no black at all | dark_pigment absent
jet black | dark_pigment jet
high white | white_share high
all white | white_share all
low white | white_share low
freckles | freckles few
lots of freckles | freckles many
paradox | paradox present
scaleless | scales scaleless
head wobble | wobble mild
no wobble | wobble none
kinked | body_form kinked
lobes don't touch the belly | lobe_attach floating
eyes are a bit greenish | eye_color green
blushed head | head_blush strong
head blush is strong | head_blush strong
orange body | body_hue orange
gray animal | body_hue grey
lighter than normal | lightness lighter
there is no yellow left | yellow_kept stripped
yellow gone | yellow_kept stripped
black and white | yellow_kept stripped
the back is bright | dorsal_tone light
bright dorsal | dorsal_tone light
rings on the back | dorsal_marks many
dots along the back | dorsal_marks many
spider webbing | flank_lines web
eye stripe missing | eye_stripe_width missing
lobes all free of the belly | lobe_attach floating
most lobes are floating | lobe_attach floating
some of the lobes float | lobe_attach mixed
no lobes left | lobe_attach absent
lobes gone | lobe_attach absent
lots of eyes in the lobes | lobe_spots many
eyes are blue | eye_color blue
pink eyes | eye_color red
bug eyed | eye_form bulging
small eyes | eye_form small
jagged eye stripe | eye_stripe_edge jagged
upper edge of the eye stripe is toothed | eye_stripe_edge jagged
dark lips | lip_color dark
head has a fork | head_shape_mark fork
head mark looks like a mask | head_shape_mark mask
butterfly on the head | head_shape_mark butterfly
pinched head | head_shape_mark pinched
head stamp almost gone | head_stamp reduced
reduced head stamp | head_stamp reduced
rusty head | head_hue chocolate
purple head | head_hue purple_grey
crown is chocolate | head_hue chocolate
creamy head | head_hue cream
blush on the crown | head_blush strong
ladder back | dorsal_stripe chain
dots on back | dorsal_marks many
narrow dorsal stripe | dorsal_width narrow
wide back stripe | dorsal_width wide
light stripe on the back | dorsal_tone light
dark dorsal | dorsal_tone dark
tail pattern is broken | tail_pattern broken
belly is clean | belly_marks none
belly has lots of flecks | belly_marks flecked
belly is dark | belly_color dark
flecked belly edge | belly_edge flecked
clean belly edge | belly_edge clean
no flaming at all | flank_flames none
slight flames | flank_flames some
huge flames | flank_flames strong
no white on the sides | side_white none
white climbs half way up the sides | side_white mid
pure white | white_share all
half white | white_share mid
white splotches | white_layout splash
yellow gone from the animal | yellow_kept stripped
yellow is muted | yellow_kept muted
no yellow | yellow_kept stripped
blacks are brown | dark_pigment faded
faded blacks | dark_pigment faded
silver lobes | lobe_tone grey
pale lobes | lobe_tone pale
yellow lobes | lobe_tone yellow
thin outline | lobe_outline thin
no outline | lobe_outline none
head is darker than the body | head_lightness darker
white head | head_lightness white
head is almost white | head_lightness white
no bands | banding normal
very strong bands | banding strong
the pattern is really busy | pattern_amount busy
pattern repeats evenly | pattern_order uniform
chaotic pattern | pattern_order scrambled
aberrant | pattern_order scrambled
wobbles badly | wobble marked
slight wobble | wobble mild
duck billed | body_form duck_billed
spine is straight | body_form normal
missing scales on the head | scales head
partial ringer | ringer partial
neck is striped | neck_pattern striped
holes in the neck pattern | neck_pattern broken
clean neck | neck_pattern reduced
eye stripe is super wide | eye_stripe_width wide
broken eye stripe | eye_stripe_edge broken
clean eye stripe | eye_stripe_edge clean
lateral lines | flank_lines lateral
contrast is great | contrast high
low contrast animal | contrast low
a few freckles | freckles few
definitely pinstripe lines | flank_lines pin
one eye per lobe | lobe_spots one
mostly white | white_share high
completely white | white_share all
tall narrow lobes | lobe_shape tall
thick white outlining | lobe_outline strong
freckled all over | freckles many
no scales on the head | scales head
stamp as a mask | head_shape_mark mask
bands everywhere | banding strong
spots above the nostrils | snout_spots present
head tremor | wobble mild
stripes along the sides | flank_lines lateral
purple tint in the black | dark_pigment purple
"""


class Dictation(TestCase):
    def heard(self, text: str) -> list[str]:
        """Each look as heard; of several meanings all, with "or" between."""
        return [" or ".join(" ".join(look) for look in one.looks) for one in dictated(CATALOGUE, text).heard]

    def test_what_keepers_say(self) -> None:
        for row in TABLE.strip().splitlines():
            text, wanted = row.split(" | ")
            with self.subTest(text):
                self.assertEqual(self.heard(text), [wanted])

    def test_what_was_written_before_the_vocabulary_was_held_against_it(self) -> None:
        rows = [row for row in SAID.read_text(encoding="utf-8").splitlines() if row and not row.startswith("#")]
        for row in rows:
            text, *wanted = [part.strip() for part in row.split("|")]
            with self.subTest(text):
                heard = dictated(CATALOGUE, text).heard
                said = [{" ".join(look) for look in one.looks} for one in heard]
                self.assertTrue(said or "-" in wanted, "not understood")
                self.assertTrue(all(one & set(wanted) for one in said), said)

    def test_a_look_and_its_level_are_heard_by_the_names_that_stand_on_the_bench(self) -> None:
        for trait in CATALOGUE.document["traits"]:
            for level in trait["levels"]:
                name = level.get("name", level["id"].replace("_", " "))
                if level["id"] not in ("none", "present", "absent") and trait["id"] not in NAMED_BY_LEVELS:
                    with self.subTest(f"{trait['name']}: {name}"):
                        heard = dictated(CATALOGUE, f"{trait['name']}: {name}").heard
                        self.assertEqual([one.looks for one in heard], [((trait["id"], level["id"]),)])

    def test_an_own_look_is_heard_by_its_names(self) -> None:
        look = {"id": "chin", "name": "Chin dapples", "region": "head", "levels": [{"id": "few"}, {"id": "dense"}]}
        document = {
            **CATALOGUE.document,
            "traits": [*CATALOGUE.document["traits"], look | {"clarity": CLARITY, "question": "?"}],
        }
        found = dictated(catalogue_from(Node(document)), "chin dapples dense, green eyes")
        self.assertEqual([one.looks for one in found.heard], [(("chin", "dense"),), (("eye_color", "green"),)])

    def test_a_place_alone_is_told_by_what_follows(self) -> None:
        self.assertEqual(self.heard("head stamp: busy"), ["head_stamp busy"])
        self.assertEqual(self.heard("eye stripe, width thin, green eyes"), ["eye_stripe_width thin", "eye_color green"])
        self.assertEqual(self.heard("lobes floating, fused"), ["lobe_attach floating", "lobe_shape joined"])
        self.assertEqual(self.heard("white with yellow marks"), ["white_layout yellow_marks"])

    def test_or_between_what_it_may_be(self) -> None:
        self.assertEqual(self.heard("pink or bright red eyes"), ["eye_color red"])
        self.assertEqual(self.heard("eyes green or grey"), ["eye_color green or eye_color grey_light"])

    def test_one_word_that_says_nothing_of_a_look_is_passed_over_beside_a_place_and_a_level(self) -> None:
        self.assertEqual(self.heard("eyes look green by moonlight"), ["eye_color green"])
        for text in (
            "moonlit eyes",
            "green",
            "green eyes by wibble moonlight",
            "green eyes like its mother",
            "blue eyes cloudy",
        ):
            self.assertEqual(self.heard(text), [], text)

    def test_a_weak_word_outweighs_a_strong_one(self) -> None:
        self.assertEqual(self.heard("very slight wobble"), ["wobble mild"])

    def test_a_whole_sentence_in_its_order(self) -> None:
        found = self.heard("Floating lobes, the head is pale and no freckles; belly clear.")
        self.assertEqual(
            found, ["lobe_attach floating", "head_lightness lighter", "freckles none", "belly_color clear"]
        )

    def test_what_is_not_understood_comes_back(self) -> None:
        found = dictated(CATALOGUE, "floating lobes, wibbly thing, the")
        self.assertEqual((len(found.heard), found.unheard), (1, ("wibbly thing",)))
        self.assertEqual(dictated(CATALOGUE, " , . ").unheard, ())

    def test_a_level_that_is_denied_is_no_answer_unless_its_opposite_is_known(self) -> None:
        for text in ("not floating lobes", "the head isn't white", "not dark", "not patternless", "no white lips"):
            self.assertEqual(len(dictated(CATALOGUE, text).unheard), 1, text)
        self.assertEqual(self.heard("lobes don't touch the belly"), ["lobe_attach floating"])
        self.assertEqual(self.heard("eye stripe isn’t jagged"), ["eye_stripe_edge smooth"])

    def test_strong_and_weak_words_move_along_the_scale(self) -> None:
        for text, wanted in (
            ("very dark animal", "lightness very_dark"),
            ("a bit of flaming", "flank_flames some"),
            ("huge flames", "flank_flames strong"),
            ("slight neck blush", "neck_blush slight"),
            ("really reduced pattern", "pattern_amount strong_reduced"),
            ("not much contrast", "contrast low"),
        ):
            self.assertEqual(self.heard(text), [wanted], text)

    def test_what_may_mean_two_things_is_offered_as_both(self) -> None:
        self.assertEqual(self.heard("ringer"), ["ringer partial or ringer full"])
        self.assertEqual(len(dictated(CATALOGUE, "blushing").heard[0].looks), 3)

    def test_a_word_without_a_part_leaves_the_whole_clause_not_understood(self) -> None:
        for text in ("lobes like a pastel", "stripe of paint on the head", "belly", "white", "eyes"):
            self.assertEqual(dictated(CATALOGUE, text).heard, (), text)

    def test_and_carries_the_place_over_and_a_comma_does_not(self) -> None:
        both = ["head_lightness lighter", "head_stamp washed_out"]
        self.assertEqual(self.heard("head looks pale and washed out"), both)
        self.assertEqual(self.heard("pale and washed out head"), both)
        self.assertEqual(self.heard("green eyes, dark"), ["eye_color green", "lightness darker"])

    def test_no_begins_a_look_of_its_own_where_both_are_understood(self) -> None:
        self.assertEqual(self.heard("grey body no yellow"), ["body_hue grey", "yellow_kept stripped"])
        self.assertEqual(dictated(CATALOGUE, "wibble body no yellow").unheard, ("wibble body no yellow",))

    def test_hedges_count_as_likely(self) -> None:
        (one,) = dictated(CATALOGUE, "I think the head is lighter").heard
        self.assertEqual((one.looks, one.confidence, one.is_unsure), ((("head_lightness", "lighter"),), "likely", True))

    def test_comparisons_go_to_the_siblings(self) -> None:
        for text, wanted in (
            ("brighter than egg 4", ("lightness", "more", "4")),
            ("darker than hatchling two", ("lightness", "less", "2")),
            ("head is paler than number 3", ("head_lightness", "more", "3")),
            ("more flames than egg 3", ("flank_flames", "more", "3")),
        ):
            (one,) = dictated(CATALOGUE, text).beside
            self.assertEqual((one.trait, one.answer, one.than), wanted)
        self.assertEqual(self.heard("lighter than normal"), ["lightness lighter"])

    def test_the_later_of_two_on_one_look_counts(self) -> None:
        self.assertEqual(self.heard("wide eye stripe, no, thin eye stripe")[-1], "eye_stripe_width thin")

    def test_on_the_command_line(self) -> None:
        status, out, _ = ran(
            "hear", json.dumps({"texts": ["ringer", "maybe floating lobes", "wibble", "paler than egg 2"]})
        )
        first, second, third, fourth = json.loads(out)["heard"]
        either = [{"trait": "ringer", "level": level} for level in ("partial", "full")]
        self.assertEqual((status, first), (0, {"looks": [{"either": either}], "not_understood": []}))
        self.assertEqual(second["looks"], [{"trait": "lobe_attach", "level": "floating", "confidence": "likely"}])
        self.assertEqual(third, {"looks": [], "not_understood": ["wibble"]})
        self.assertEqual(fourth["compared"], [{"trait": "lightness", "answer": "more", "than": "2"}])

    def test_every_look_of_the_catalogue_can_be_said(self) -> None:
        entries = vocabulary()["traits"]
        self.assertEqual(set(entries), set(CATALOGUE.traits))
        for trait, entry in entries.items():
            for level in (*entry.get("levels", {}), *entry.get("alone", {}), *entry.get("not", {}).values()):
                self.assertIn(level, CATALOGUE.traits[trait].level_index, trait)
