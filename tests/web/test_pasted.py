"""A pasted list of animals: read into a table, mended there, entered as a whole."""

from __future__ import annotations

from django.utils import timezone

from eyot.animals.pasted import MOST_LINES, cells_of, enter_pasted, rows_of
from eyot.collection.history import changes_of, take_back
from eyot.collection.member_actions import new_collection
from eyot.collection.models import Collection
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase

LIST = """
My girls 🐍✨

• Tarnish: pastel 66% het clown female - $350
- 🔥 Bramble: super pastel enchi ♂ 1450 g
2) 0.1 mojave yellow belly, $1,200 obo

\tSorrel\tfemale\tbanana het pied\t1.200 €
"""


class PastedCase(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.now = timezone.now()
        self.own = new_collection(self.keeper, "Own Reach")

    def genes(self, collection: Collection, name: str) -> dict[str, tuple[int, str]]:
        animal = collection.animals.get(name=name)
        return {row.gene: (row.copies, row.chance) for row in animal.genes.all()}


class Read(PastedCase):
    def test_bullets_prices_emoji_tabs_and_empty_lines_do_no_harm(self) -> None:
        cells = cells_of(self.own, LIST)[1:]
        self.assertEqual(
            [(one.name, one.sex) for one in cells],
            [("Tarnish", "female"), ("Bramble", "male"), ("Animal 2", "female"), ("Sorrel", "female")],
        )
        for row in rows_of(self.own, cells):
            self.assertEqual((row.troubles, [word for word, _ in row.read.unknown]), ([], []), row.cells)
        enter_pasted(self.own, self.keeper, cells, self.now)
        self.assertEqual(self.genes(self.own, "Tarnish"), {"pastel": (1, "1"), "clown": (1, "2/3")})
        self.assertEqual(self.genes(self.own, "Bramble"), {"pastel": (2, "1"), "enchi": (1, "1")})
        self.assertEqual(self.genes(self.own, "Animal 2"), {"mojave": (1, "1"), "yellow_belly": (1, "1")})
        self.assertEqual(self.genes(self.own, "Sorrel"), {"banana": (1, "1"), "piebald": (1, "1")})
        note = self.own.animals.get(name="Tarnish").note
        self.assertEqual(note, "As pasted: • Tarnish: pastel 66% het clown female - $350")

    def test_what_is_no_animal_is_a_row_that_says_so_and_goes_when_it_is_emptied(self) -> None:
        (row,) = rows_of(self.own, cells_of(self.own, LIST)[:1])
        self.assertIn("“girls” is not known here", " ".join(row.unsure))

    def test_a_name_may_stand_first_without_a_colon(self) -> None:
        for line, name, genes in (
            ("Reed, female, pastel het clown", "Reed", "female, pastel het clown"),
            ("Reed – pastel female", "Reed", "pastel female"),
            ("Reed - pastel female", "Reed", "pastel female"),
            ("Teal Rail 0.1 pastel", "Teal Rail", "0.1 pastel"),
            ("Ms. Sallow (pastel het clown)", "Ms. Sallow", "(pastel het clown)"),
            ("O'Rill, Moss's sister, enchi", "O'Rill", "Moss's sister, enchi"),
            ("26-W02-2 female pastel, 1,2 kg", "26-W02-2", "female pastel"),
            ('pastel "Old Sedge" female', "Old Sedge", "pastel female"),
            ("pastel female named Fen", "Fen", "pastel female"),
            ("super pastel “Pastel” male", "Pastel", "super pastel male"),
        ):
            (one,) = cells_of(self.own, line)
            self.assertEqual((one.name, one.line), (name, genes), line)

    def test_no_name_is_made_of_what_means_something_or_of_a_heading(self) -> None:
        for line in ("girl pastel", "Mystic River 0.1 pastel", "hets: clown, pied", "2021 female pastel", "Girls 2021"):
            (one,) = cells_of(self.own, line)
            self.assertEqual((one.name, one.line), ("Animal 1", line))

    def test_five_hundred_lines_are_read_and_not_one_more(self) -> None:
        lines = "\n".join(f"A{number}: pastel" for number in range(MOST_LINES))
        self.assertEqual(len(cells_of(self.own, lines)), 500)
        with self.assertRaisesMessage(Refused, "501 lines are more than the 500"):
            cells_of(self.own, lines + "\nOne more: enchi")
        for nothing in ("", "\n \n\t\n", "- \n• \n---\n"):
            with self.assertRaisesMessage(Refused, "no line to read"):
                cells_of(self.own, nothing)


class Entered(PastedCase):
    def send(self, **given: object) -> object:
        return self.client.post("/in/own-reach/animals/paste/", given)

    def test_the_whole_list_is_one_change(self) -> None:
        enter_pasted(self.own, self.keeper, cells_of(self.own, "Rush: clown\nSedge: het clown\n"), self.now)
        (change,) = changes_of(self.own)
        self.assertEqual(change.what, "2 animals entered from a list")
        take_back(change, self.keeper, self.now)
        self.assertFalse(self.own.animals.exists())

    def test_names_that_are_here_or_stand_twice_and_what_no_animal_can_be_are_marked_and_keep_all_out(self) -> None:
        self.own.animals.create(name="Rush")
        text = "Rush: clown\nSedge: enchi\nsedge: pastel\nFlag: three copies mojave lesser russo bamboo\n"
        cells = cells_of(self.own, text)
        troubles = [" ".join(row.troubles) for row in rows_of(self.own, cells)]
        self.assertEqual(troubles[0], "There is a Rush already.")
        self.assertEqual(troubles[1:3], ["Sedge stands here 2 times.", "sedge stands here 2 times."])
        self.assertTrue(troubles[3])
        with self.assertRaisesMessage(
            Refused, "Row 1: There is a Rush already. So it is with 3 more. Nothing was entered."
        ):
            enter_pasted(self.own, self.keeper, cells, self.now)
        self.assertEqual(self.own.animals.count(), 1)

    def test_from_the_pasted_text_over_the_table_to_the_animals(self) -> None:
        page = self.send(text="Rush: clown female\nSedge: super mojve\n")
        self.assertContains(page, 'name="name" value="Rush"')  # type: ignore[arg-type]
        self.assertFalse(self.own.animals.exists())
        table = {"name": ["Rush", "Sedge", ""], "sex": ["female", "", ""], "genes": ["clown", "super mojave", ""]}
        table |= {"pasted": ["Rush: clown female", "Sedge: super mojve", "gone"]}
        refused = self.send(**table | {"name": ["", "Sedge", ""], "enter": "yes"})
        self.assertContains(refused, "Row 1: It needs a name.", status_code=422)  # type: ignore[arg-type]
        self.assertContains(refused, 'value="super mojave"', status_code=422)  # type: ignore[arg-type]
        self.assertEqual(self.send(**table | {"enter": "yes"}).status_code, 302)  # type: ignore[attr-defined]
        self.assertEqual(self.genes(self.own, "Sedge"), {"mojave": (2, "1")})
        self.assertEqual(self.own.animals.get(name="Sedge").note, "As pasted: Sedge: super mojve")

    def test_a_question_is_answered_where_it_stands(self) -> None:
        text = "Rush: 66% het clown pied\nSedge: clown\n"
        (asked,), others = (row.asked for row in rows_of(self.own, cells_of(self.own, text)))
        self.assertEqual(others, [])
        (_, line), *_ = asked.choices
        table = {
            "name": ["Rush", "Sedge"],
            "sex": ["", ""],
            "genes": ["66% het clown pied", "clown"],
            "pasted": ["", ""],
        }
        page = self.send(**table | {"answer": f"0 {line}"})
        self.assertContains(page, f'name="genes" value="{line}"')  # type: ignore[arg-type]
        self.assertFalse(self.own.animals.exists())
