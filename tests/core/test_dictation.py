"""What is said aloud, as looks to confirm."""

from __future__ import annotations

from unittest import TestCase

from eyot_core.catalogue import builtin_catalogue
from eyot_core.wording.dictation import PLACES, SEEN, dictated

CATALOGUE = builtin_catalogue()
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
"""


class Dictation(TestCase):
    def heard(self, text: str) -> list[str]:
        return [f"{one.trait} {one.level}" for one in dictated(CATALOGUE, text).heard]

    def test_what_keepers_say(self) -> None:
        for row in TABLE.strip().splitlines():
            text, wanted = row.split(" | ")
            with self.subTest(text):
                self.assertEqual(self.heard(text), [wanted])

    def test_a_whole_sentence_in_its_order(self) -> None:
        found = self.heard("Floating lobes, the head is pale and no freckles; belly clear.")
        self.assertEqual(
            found, ["lobe_attach floating", "head_lightness lighter", "freckles none", "belly_color clear"]
        )

    def test_what_is_not_understood_comes_back(self) -> None:
        found = dictated(CATALOGUE, "floating lobes, wibbly thing, the")
        self.assertEqual((len(found.heard), found.unheard), (1, ("wibbly thing",)))
        self.assertEqual(dictated(CATALOGUE, " , . ").unheard, ())

    def test_a_level_that_is_denied_is_no_answer(self) -> None:
        self.assertEqual(dictated(CATALOGUE, "not floating lobes").unheard, ("not floating lobes",))

    def test_the_later_of_two_on_one_look_counts(self) -> None:
        self.assertEqual(self.heard("wide eye stripe, no, thin eye stripe")[-1], "eye_stripe_width thin")

    def test_every_look_has_a_place_and_every_word_a_level(self) -> None:
        self.assertEqual(set(PLACES), set(CATALOGUE.traits))
        for trait, level in SEEN:
            self.assertIn(level, CATALOGUE.traits[trait].level_index, trait)
