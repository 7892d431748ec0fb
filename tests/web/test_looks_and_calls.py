"""Looks and calls: what is recorded, what counts, what is refused, and what the clutch learns."""

from __future__ import annotations

import re
from dataclasses import replace
from unittest.mock import patch
from uuid import uuid4

from django.http import HttpResponse
from django.utils import timezone

from eyot_core.identify.inference import Inference
from eyot_core.wording.label import het_words

from eyot.animals.holdbacks import hold_back
from eyot.bench.actions import Answer, make_call, record_look, withdraw_look
from eyot.bench.body_map import body_map
from eyot.bench.clutch_queries import parents_say, recessives_say
from eyot.bench.judgement import counting, trait_words
from eyot.bench.models import Call, CalledGene, Look
from eyot.bench.queries import answered_by_anyone, bench_view, proposed_verdict
from eyot.bench.siblings import judged
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase


def answer(trait: str, level: str, stage: str = "egg", confidence: str = "sure") -> Answer:
    return Answer(trait, level, stage, confidence, uuid4())


class Looks(SeasonCase):
    def record(self, number: int, trait: str, level: str, user: object = None) -> Look:
        return record_look(self.egg(number), user or self.keeper, answer(trait, level), timezone.now())  # type: ignore[arg-type]

    def test_the_same_answer_sent_twice_counts_once(self) -> None:
        given = answer("white_layout", "saddles")
        before = Look.objects.count()
        for _ in range(2):
            record_look(self.egg(3), self.keeper, given, timezone.now())
        self.assertEqual(Look.objects.count(), before + 1)

    def test_the_last_answer_counts_and_the_earlier_one_stays(self) -> None:
        first, second = self.record(3, "head_stamp", "busy"), self.record(3, "head_stamp", "wiped")
        looks = list(Look.objects.filter(egg=self.egg(3)))
        self.assertEqual(looks, [first, second])
        self.assertEqual(counting(looks), [second])

    def test_cant_see_takes_an_answer_out_of_count(self) -> None:
        self.record(3, "head_stamp", "busy")
        self.record(3, "head_stamp", "unseen")
        self.assertEqual(counting(Look.objects.filter(egg=self.egg(3))), [])

    def test_two_people_do_not_overwrite_one_another(self) -> None:
        self.record(3, "head_stamp", "busy")
        self.record(3, "head_stamp", "wiped", self.helper)
        self.assertEqual(len(counting(Look.objects.filter(egg=self.egg(3)))), 2)

    def test_a_look_taken_back_brings_the_one_before_it_back(self) -> None:
        first, second = self.record(3, "head_stamp", "busy"), self.record(3, "head_stamp", "wiped")
        withdraw_look(self.egg(3), self.keeper, second.pk, timezone.now())
        self.assertEqual(counting(Look.objects.filter(egg=self.egg(3))), [first])
        self.assertEqual(Look.objects.filter(egg=self.egg(3)).count(), 2)

    def test_another_persons_look_cannot_be_taken_back(self) -> None:
        look = self.record(3, "head_stamp", "busy")
        with self.assertRaisesRegex(Refused, "own looks"):
            withdraw_look(self.egg(3), self.helper, look.pk, timezone.now())

    def test_what_is_not_known_is_refused_and_says_what_is_allowed(self) -> None:
        for given, wanted in (
            (answer("shoe_size", "9"), "not a look that Eyot knows"),
            (answer("head_stamp", "purple"), "allowed: normal, busy"),
            (answer("head_stamp", "busy", "birth"), "stage"),
            (answer("head_stamp", "busy", "egg", "very"), "how sure"),
        ):
            with self.subTest(wanted), self.assertRaisesRegex(Refused, wanted):
                record_look(self.egg(3), self.keeper, given, timezone.now())
        self.assertFalse(Look.objects.filter(egg=self.egg(3)).exists())

    def test_a_shut_egg_has_nothing_to_look_at(self) -> None:
        with self.assertRaisesRegex(Refused, "Egg 7 is not open"):
            self.record(7, "head_stamp", "busy")


class WhatIsSentBack(SeasonCase):
    """Of the rows only those that the page shows otherwise come back; all of it where the page shows other rows."""

    def answered(self, shown: str, level: str = "busy", sure: str = "sure") -> HttpResponse:
        given = {"trait": "head_stamp", "level": level, "stage": "egg", "confidence": sure, "key": uuid4()}
        return self.client.post(
            f"/clutches/{self.clutch().code}/3/looks/", given, headers={"HX-Request": "true", "X-Rows-Shown": shown}
        )

    def states(self) -> list[str]:
        view = bench_view(judged(self.clutch()), self.egg(3), "egg", self.keeper)
        return [row.state for row in view.rows]

    def test_only_the_answered_row_and_the_verdicts(self) -> None:
        self.answered("")
        before = self.states()
        answer = self.answered(" ".join(before), sure="likely")
        self.assertEqual(answer["HX-Reswap"], "none")
        sent = re.findall(r'id="row-(\w+)"', answer.content.decode())
        changed = [state.split(".")[0] for state, old in zip(self.states(), before, strict=True) if state != old]
        self.assertEqual(sent, changed)
        self.assertIn("head_stamp", sent)
        self.assertLess(len(sent), len(before))
        self.assertIn('id="verdicts"', answer.content.decode())

    def test_everything_where_the_page_shows_other_rows(self) -> None:
        for shown in ("", "head_stamp.0", "rubbish", " ".join(reversed(self.states()))):
            answer = self.answered(shown)
            self.assertNotIn("HX-Reswap", answer)
            self.assertEqual(answer.content.decode().count('class="look-rows"'), 1)

    def test_a_refusal_brings_everything_with_the_reason(self) -> None:
        answer = self.answered(" ".join(self.states()), "purple")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("allowed: normal, busy", answer.content.decode())
        self.assertIn('class="look-rows"', answer.content.decode())


class WhatTheClutchLearns(SeasonCase):
    def answer(self) -> tuple[str, str]:
        """What the clutch says of Marram, and of eggs and siblings."""
        judgement = judged(self.clutch())
        marram = " ".join(parents_say(judgement, self.clutch())[0].sentences)
        return marram, " ".join(recessives_say(judgement)[0].sentences)

    def test_one_visual_piebald_proves_marram_and_changes_all_siblings(self) -> None:
        marram, siblings = self.answer()
        self.assertNotIn("proven", marram)
        self.assertIn("shows it with a chance of 1 in 6,", siblings)
        self.assertIn("carries it with a chance of 3 in 5.", siblings)
        record_look(self.egg(3), self.keeper, answer("white_layout", "saddles"), timezone.now())
        marram, siblings = self.answer()
        self.assertIn("→ proven by egg 3", marram)
        self.assertIn("shows it with a chance of 1 in 4,", siblings)
        self.assertIn("carries it with a chance of 2 in 3.", siblings)

    def test_without_any_look_the_figures_are_those_of_the_parents(self) -> None:
        Look.objects.all().delete()
        judgement = judged(self.clutch())
        shown = judgement.chance_of(judgement.unseen_sibling, "piebald", "shown", 2)
        self.assertAlmostEqual(shown, 1 / 6, 12)
        self.assertAlmostEqual(judgement.carried_if_not_shown("piebald"), 3 / 5, 12)
        self.assertIn("at least one of 2 with 29\u00a0%", recessives_say(judgement)[0].sentences[0])

    def test_lines_that_do_not_match_give_only_carriers(self) -> None:
        for row in recessives_say(judged(self.clutch("W-06"))):
            self.assertEqual(row.sentences[0], "No egg of these parents can show it.")
        first = recessives_say(judged(self.clutch("W-06")))[0]
        self.assertIn("carries it for certain", first.sentences[-1])

    def test_a_parent_is_told_as_the_collection_states_it(self) -> None:
        marram = parents_say(judged(self.clutch()), self.clutch())[0]
        self.assertEqual(marram.genes, ["Mojave (seen)", "Yellow Belly (seen)", "66 % het Piebald (possible)"])


class BenchView(SeasonCase):
    def test_a_look_moves_its_gene_and_leaves_a_notch_with_its_number(self) -> None:
        before = bench_view(judged(self.clutch()), self.egg(4), "egg", self.keeper)
        record_look(self.egg(4), self.keeper, answer("lobe_attach", "floating"), timezone.now())
        after = bench_view(judged(self.clutch()), self.egg(4), "egg", self.keeper)
        posterior = {line.gene: line.posterior for line in before.genes if line.form == "shown"}
        grown = {line.gene: line for line in after.genes if line.form == "shown"}
        self.assertGreater(grown["mojave"].posterior, posterior["mojave"])
        self.assertEqual([notch.number for notch in grown["mojave"].notches], [1])
        self.assertEqual(grown["mojave"].prior, 100)

    def test_the_looks_that_moved_a_gene_most_are_named_for_and_against(self) -> None:
        name = trait_words("lobe_attach")["name"]
        for level, side in (("floating", "for"), ("attached", "against")):
            record_look(self.egg(4), self.keeper, answer("lobe_attach", level), timezone.now())
            view = bench_view(judged(self.clutch()), self.egg(4), "egg", self.keeper)
            mojave = next(line for line in view.genes if line.gene == "mojave" and line.form == "shown")
            self.assertEqual([(one.side, one.words) for one in mojave.movers], [(side, f"{name}: {level}")])
            self.assertEqual(mojave.others, 0)
            self.assertContains(self.client.get("/clutches/W-04/4/?stage=egg"), f'title="{name}: {level}"')

    def test_what_is_settled_and_what_is_open_is_said_once(self) -> None:
        Look.objects.all().delete()
        view = bench_view(judged(self.clutch()), self.egg(4), "egg", self.keeper)
        self.assertEqual(view.settled, "Nothing is settled yet")
        self.assertIn("Piebald", [line.base_name for line in view.open_genes])
        record_look(self.egg(4), self.keeper, answer("white_layout", "saddles"), timezone.now())
        view = bench_view(judged(self.clutch()), self.egg(4), "egg", self.keeper)
        self.assertEqual(view.settled, "Piebald")
        self.assertNotIn("Piebald", [line.base_name for line in view.open_genes])
        page = self.client.get("/clutches/W-04/4/?stage=egg")
        self.assertContains(page, "<b>Piebald</b>; open: ")
        nothing = replace(view, genes=[replace(line, verdict=CalledGene.Verdict.NOT) for line in view.genes])
        self.assertEqual((nothing.settled, nothing.open_genes), ("None of their genes shows", []))

    def test_a_gene_of_which_nothing_speaks_stays_where_the_parents_put_it(self) -> None:
        Look.objects.all().delete()
        view = bench_view(judged(self.clutch()), self.egg(4), "egg", self.keeper)
        mojave = next(line for line in view.genes if line.gene == "mojave")
        self.assertEqual((mojave.before, mojave.after, mojave.spoken_of), ("1 in 2", "50\u00a0%", False))

    def test_candidates_are_merged_by_what_shows_and_sum_to_one(self) -> None:
        rows = judged(self.clutch()).combinations(self.egg(1), 1000)
        self.assertAlmostEqual(sum(row.chance for row in rows), 1, 12)
        self.assertAlmostEqual(sum(row.before for row in rows), 1, 12)
        labels = [str(sorted(row.genotype.items())) for row in rows]
        self.assertEqual(len(set(labels)), len(labels))

    def test_the_next_look_is_one_that_is_not_answered(self) -> None:
        view = bench_view(judged(self.clutch("W-02")), self.egg(2, "W-02"), "shed", self.keeper)
        answered = {row.trait for row in view.rows if row.number}
        self.assertIsNotNone(view.next_step)
        self.assertNotIn(view.next_step.trait if view.next_step else "", answered)

    def test_an_answer_counts_at_the_stage_at_which_it_was_given(self) -> None:
        record_look(self.egg(3), self.keeper, answer("head_stamp", "unseen"), timezone.now())
        judgement = judged(self.clutch())
        self.assertIn("head_stamp", answered_by_anyone(judgement, self.egg(3), "egg"))
        self.assertNotIn("head_stamp", answered_by_anyone(judgement, self.egg(3), "shed"))
        self.assertEqual(self.client.get("/clutches/W-04/3/more-looks/").status_code, 200)
        page = self.client.post(
            "/clutches/W-04/3/looks/",
            {"trait": "head_stamp", "level": "busy", "stage": "wet", "key": str(uuid4())},
            headers={"HX-Request": "true"},
        )
        self.assertEqual(page.context["view"].stage, "wet")  # type: ignore[attr-defined]

    def test_another_persons_answer_is_shown_beside(self) -> None:
        record_look(self.egg(4), self.helper, answer("head_stamp", "wiped"), timezone.now())
        view = bench_view(judged(self.clutch()), self.egg(4), "egg", self.keeper)
        row = next(row for row in view.rows if row.trait == "head_stamp")
        self.assertEqual((row.others, row.answer), (("helper: wiped",), ""))

    def test_facts_that_the_parents_cannot_give_are_told_and_the_looks_kept(self) -> None:
        """No demo pairing can bring such facts about, so the inference is made to say so."""
        answer = "can’t come from these parents"
        self.assertNotContains(self.client.get("/clutches/W-02/3/"), answer)
        with patch.object(Inference, "contradictions", [True] * 5):
            page = self.client.get("/clutches/W-02/3/")
            view = bench_view(judged(self.clutch("W-02")), self.egg(3, "W-02"), "shed", self.keeper)
        self.assertContains(page, answer)
        self.assertTrue(view.contradiction)
        self.assertEqual(view.answered, 4)
        fire = next(line for line in view.genes if line.gene == "fire")
        self.assertEqual((fire.before, fire.after), ("1 in 2", "50\u00a0%"))


class OnTheBody(SeasonCase):
    """The body map: every look in its place, answered ones by their number."""

    def test_every_look_of_the_bench_has_one_mark_and_answers_their_numbers(self) -> None:
        record_look(self.egg(3), self.keeper, answer("lobe_attach", "floating"), timezone.now())
        view = bench_view(judged(self.clutch()), self.egg(3), "egg", self.keeper)
        marks = {part.area.id: part for part in view.body_map}
        self.assertEqual(sum(len(part.marks) for part in view.body_map), len(view.rows))
        self.assertEqual([mark.number for mark in marks["flank"].marks].count(1), 1)
        self.assertEqual(sum(mark.suggested for part in view.body_map for mark in part.marks), 1)
        flank = [row.trait for row in view.rows if trait_words(row.trait)["region"] in ("flank", "ground")]
        self.assertIn(f"Flank: 1 of {len(flank)} looked at", marks["flank"].words)
        self.assertEqual(marks["flank"].jump, next(trait for trait in flank if trait != "lobe_attach"))

    def test_a_part_where_no_look_tells_anything_says_so(self) -> None:
        signs = next(part for part in body_map([]) if part.area.id == "signs")
        self.assertEqual((signs.marks, signs.jump), ((), ""))
        self.assertIn("no look here tells", signs.words)


class MoreThanSureOrNot(SeasonCase):
    """This or that, a possible super, and a gene that nobody knew of."""

    def call(self, code: str, number: int, **verdicts: tuple[object, ...]) -> Call:
        judgement = judged(self.clutch(code))
        every = dict.fromkeys(judgement.model.pairing.given_genes, ("not", 1)) | verdicts
        return make_call(judgement, self.egg(number, code), self.keeper, every, "shed", "", uuid4(), timezone.now())  # type: ignore[arg-type]

    def test_this_or_that_of_one_complex(self) -> None:
        call = self.call("W-02", 1, fire=("either", 1), vanilla=("either", 1), enchi=("sure", 1))
        self.assertTrue(call.label.startswith("Enchi, "), call.label)
        self.assertIn(call.label.split(", ")[1], ("Fire or Vanilla", "Vanilla or Fire"))
        with self.assertRaisesMessage(Refused, "two genes of one complex"):
            self.call("W-02", 1, fire=("either", 1))

    def test_a_possible_super_is_kept_and_held_back_with_a_figure_that_a_keeper_would_write(self) -> None:
        call = self.call("W-02", 1, enchi=("sure", 1, True))
        self.assertIn("possible Super enchi", call.label)
        self.assertTrue(call.genes.get(gene="enchi").maybe_two)
        kept = hold_back(self.egg(1, "W-02"), self.keeper, "Sedgelet", timezone.now())
        second = kept.genes.get(gene="enchi").two_chance
        self.assertRegex(second, r"^\d/\d$|^\d{1,2}/100$")

    def test_a_gene_that_the_parents_lack_needs_a_reason(self) -> None:
        with self.assertRaisesMessage(Refused, "say why you see it"):
            self.call("W-02", 1, leopard=("possible", 1))
        call = self.call("W-02", 1, leopard=("possible", 1, False, "linked lobes, busy head"))
        self.assertIn("possible Leopard", call.label)
        kept = call.genes.get(gene="leopard")
        self.assertEqual((kept.reason, kept.chance, kept.from_parents), ("linked lobes, busy head", 0, 0))


class Calls(SeasonCase):
    def call(self, **verdicts: tuple[str, int]) -> Call:
        judgement = judged(self.clutch())
        every = dict.fromkeys(judgement.model.pairing.given_genes, ("not", 1)) | verdicts
        return make_call(judgement, self.egg(4), self.keeper, every, "egg", "lobes float", uuid4(), timezone.now())

    def test_the_label_names_what_is_sure_and_keeps_the_rest_apart(self) -> None:
        call = self.call(mojave=("likely", 1), leopard=("possible", 1))
        self.assertEqual(call.label, "likely Mojave, possible Leopard, 60 % possible het Piebald")
        self.assertEqual(self.call(piebald=("sure", 2), mojave=("sure", 1)).label, "Mojave Piebald")

    def test_a_call_keeps_the_chances_as_they_stood(self) -> None:
        call = self.call(mojave=("likely", 1))
        record_look(self.egg(4), self.keeper, answer("lobe_attach", "floating"), timezone.now())
        kept = call.genes.get(gene="mojave")
        self.assertAlmostEqual(kept.from_parents, 1 / 2, 12)
        self.assertAlmostEqual(kept.chance, 1 / 2, 6)
        now = judged(self.clutch())
        self.assertGreater(now.chance_of(now.inference.posteriors[3].sums, "mojave", "shown", 1), kept.chance + 0.1)

    def test_a_second_call_is_added_beside_the_first(self) -> None:
        self.call(mojave=("likely", 1))
        self.call(leopard=("likely", 1))
        self.assertEqual(self.egg(4).calls.count(), 2)

    def test_a_verdict_that_is_not_known_is_refused(self) -> None:
        for bad in ({"mojave": ("perhaps", 1)}, {"mojave": ("sure", 3)}, {"clown": ("sure", 1)}):
            with self.subTest(bad), self.assertRaises(Refused):
                self.call(**bad)
        self.assertFalse(self.egg(4).calls.exists())

    def test_a_verdict_is_proposed_from_the_keepers_bounds_on(self) -> None:
        self.collection.sure_percent, self.collection.likely_percent, self.collection.not_percent = 95, 80, 5
        chances = (0.95, 0.9499, 0.80, 0.7999, 0.0501, 0.05)
        self.assertEqual(
            [proposed_verdict(chance, self.collection) for chance in chances],
            ["sure", "likely", "likely", "possible", "possible", "not"],
        )

    def test_a_recessive_is_reckoned_shown_twice_and_carried_once(self) -> None:
        forms = [form for form in judged(self.clutch()).forms() if form[0] in ("piebald", "leopard")]
        self.assertEqual(forms, [("piebald", "shown", 2), ("piebald", "carried", 1), ("leopard", "shown", 1)])

    def test_a_sibling_that_does_not_show_it_carries_it_by_what_the_parents_leave(self) -> None:
        """Dam het with 2/3, sire het: one copy with 1/2, two with 1/6; of those without two 1/2 ÷ 5/6 carry it."""
        Look.objects.filter(egg__clutch=self.clutch()).delete()
        self.assertAlmostEqual(judged(self.clutch()).carried_if_not_shown("piebald"), 3 / 5, 9)

    def test_the_trades_words_for_hets(self) -> None:
        self.assertEqual(het_words("Clown", 0.5), "50 % possible het Clown")
        self.assertEqual(het_words("Clown", 1.0), "het Clown")


class Demo(SeasonCase):
    def test_the_season_is_in_full_swing(self) -> None:
        states = [egg.state for egg in self.clutch().eggs.all()]
        self.assertEqual(states, ["open"] * 5 + ["dented", "shut"])
        codes = [clutch.code for clutch in self.collection.clutches.all()]
        self.assertEqual(codes, ["V-05", "V-06", "V-09", "W-02", "W-03", "W-04", "W-06", "W-07"])
        self.assertEqual(self.collection.animals.count(), 60)

    def test_v09_is_called_as_it_was_proven(self) -> None:
        labels = [egg.calls.get().label for egg in self.clutch("V-09").eggs.all()]
        self.assertEqual(labels[0], "Ultramel Orange Dream")
        self.assertEqual(labels[1], "Gravel, het Ultramel")

    def test_a_second_sire_is_weighed(self) -> None:
        judgement = judged(self.clutch("W-03"))
        self.assertEqual(len(judgement.inference.posteriors[0].sires), 2)
        self.assertAlmostEqual(float(judgement.inference.posteriors[0].sires.sum()), 1, 12)
