"""Ten hard lines typed as breeders write them, each asked or understood, none guessed."""

from __future__ import annotations

from playwright.sync_api import expect

from eyot.collection.models import Animal
from tests.journeys.browser import Journey

UNDERSTOOD = (
    ("het clown 66%", "66% het Clown"),
    ("clown het", "het Clown"),
    ("hets: clown, pied", "het Piebald"),
    ("possible pinstripe, spider and pastel", "50% Pastel"),
    ("SE 2x pastel", "Super enchi"),
    ("super fly adult girl 1500g", "Fire"),
)
ASKED = (
    ("axanthic pied", "Which line of axanthic?"),
    ("mojave or special", "Which of them is it?"),
    ("blue eyed leucistic", "Which pair of alleles made it white?"),
    ("cinnamon pastel", "is said of several"),
)


class Lines(Journey):
    def test_ten_hard_lines(self) -> None:
        page = self.member()
        self.visit(page, "/animals/new/")
        read = page.locator("#line-read")
        for text, words in UNDERSTOOD:
            page.fill("#line", text)
            expect(read.locator(".read-genes")).to_contain_text(words)
            expect(read.locator(".asks")).to_have_count(0)
        for text, words in ASKED:
            page.fill("#line", text)
            expect(read).to_contain_text(words)

    def test_a_choice_is_pressed_an_unknown_word_refuses_nothing_and_is_kept(self) -> None:
        page = self.member()
        self.visit(page, "/animals/new/")
        page.fill("#line", "Sandbar: burn mojave or special, axanthic")
        page.get_by_role("button", name="Special", exact=True).click()
        expect(page.locator("#line")).to_have_value("Sandbar: burn Special, axanthic")
        page.get_by_role("button", name="visual Axanthic line B", exact=True).click()
        expect(page.locator("#line-read .asks")).to_have_count(1)
        page.get_by_role("button", name="Enter", exact=True).click()
        expect(page.get_by_role("heading", name="Sandbar")).to_be_visible()
        animal = Animal.objects.get(name="Sandbar")
        self.assertEqual([(gene.gene, gene.copies) for gene in animal.genes.all()], [("special", 1), ("axanthic_b", 2)])
        self.assertIn("“burn”", animal.note)
