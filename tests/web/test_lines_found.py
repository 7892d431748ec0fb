"""Lines that a worker finds: strip and measures at once, marked as looked at by nobody, confirmed or mended by hand."""

from __future__ import annotations

import tempfile
from typing import Any
from unittest.mock import patch
from uuid import uuid4

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from django.utils import timezone
from PIL import Image

from eyot_core.drawing.camera import photographed
from eyot_core.photo.find import Found

from eyot.collection.models import Change
from eyot.photos import processing, tasks
from eyot.photos.actions import order_unsought
from eyot.photos.models import GreyPrint, Photo
from eyot.season.models import Weighing
from tests.core.cards import Laid, photographed_cards
from tests.core.photographs import Taken, case, looks_of
from tests.jobs import do_jobs, forget_jobs, stored_in
from tests.web.season_data import SeasonCase
from tests.web.test_photos import encoded


def animal() -> Taken:
    """A small photo of an animal that lies loose."""
    return case(3, width=640).taken


CARDS_MM = 0.5
"""Millimetres of a pixel where a card lies beside an animal."""


class Lines(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(STORAGES=stored_in(folder.name)))

    def added(self, pixels: np.ndarray | None = None, stage: str = "shed", **more: str) -> Photo:
        picture = encoded(image=Image.fromarray(animal().pixels if pixels is None else pixels), quality=92)
        sent = {"photos": SimpleUploadedFile("one.jpg", picture), "key": str(uuid4()), **more}
        self.client.post(f"/clutches/W-02/2/photos/?stage={stage}", sent)
        return Photo.objects.latest("added_at")

    def change(self, photo: Photo, what: str, **given: str) -> Photo:
        self.client.post(f"/photos/{photo.pk}/{what}/", given)
        return Photo.objects.get(pk=photo.pk)

    def made(self, photo: Photo) -> Photo:
        while do_jobs():
            pass
        return Photo.objects.get(pk=photo.pk)


class FoundByTheWorker(Lines):
    def test_a_strip_and_measures_are_made_along_a_line_that_was_found_and_it_says_so(self) -> None:
        photo = self.made(self.added())
        true = animal()
        self.assertTrue(photo.is_unchecked)
        self.assertLess(np.hypot(*(np.array(photo.line["points"][0]) - true.line[0])), 26, "the snout's end")
        self.assertTrue(photo.has_strip)
        self.assertIn("lightness", photo.measures)
        self.assertFalse(photo.is_waiting)
        for page in ("/clutches/W-02/2/?stage=shed", f"/photos/{photo.pk}/"):
            self.assertContains(self.client.get(page), "Line found, not checked")
        self.assertContains(self.client.get("/clutches/W-02/line-up/"), "line not checked")

    def test_confirmed_it_counts_as_drawn_and_the_change_is_kept_and_taken_back(self) -> None:
        photo = self.made(self.added())
        line, strip = photo.line, photo.strip_wanted
        photo = self.change(photo, "line/right")
        self.assertFalse(photo.is_unchecked)
        self.assertEqual((photo.line, photo.strip_wanted), (line, strip), "nothing has to be made anew")
        self.assertNotContains(self.client.get(f"/photos/{photo.pk}/"), "not checked")
        kept = Change.objects.latest("pk")
        self.assertIn("line that was found, confirmed", kept.what)
        self.client.post(f"/history/{kept.pk}/take-back/")
        self.assertTrue(Photo.objects.get(pk=photo.pk).is_unchecked)

    def test_what_is_confirmed_twice_or_has_no_line_is_told(self) -> None:
        photo = self.change(self.made(self.added()), "line/right")
        page = self.client.post(f"/photos/{photo.pk}/line/right/", {"from_page": "strip"}, follow=True)
        self.assertContains(page, "There is no line to confirm in this photo by now. Nothing was changed.")
        page = self.client.post(f"/photos/{photo.pk}/line/right/", {"from_page": "line-up"}, follow=True)
        self.assertEqual(page.redirect_chain[-1][0].split("?")[0], "/clutches/W-02/line-up/")

    def test_a_line_that_is_mended_by_hand_is_the_keepers_own(self) -> None:
        photo = self.made(self.added())
        points = " ".join(f"{x + 1:g},{y:g}" for x, y in photo.line["points"])
        photo = self.change(photo, "line", points=points)
        self.assertFalse(photo.is_unchecked)
        self.assertGreater(photo.strip_wanted, photo.strip_done)

    def test_what_is_drawn_before_the_worker_comes_to_it_stands(self) -> None:
        photo = self.added()
        points = " ".join(f"{x:g},{y:g}" for x, y in animal().line)
        drawn = self.change(photo, "line", points=points)
        photo = self.made(photo)
        self.assertEqual(photo.line, drawn.line)
        self.assertFalse(photo.is_unchecked)

    def test_a_line_drawn_while_the_worker_looks_stands(self) -> None:
        photo, mine = self.added(), {"points": [[1.0, 1.0], [2.0, 2.0]], "from": 0.0, "to": 1.0}

        def slow(sight: object) -> Found:
            Photo.objects.filter(pk=photo.pk).update(line=mine)
            return Found(animal().line, 0.95, "found")

        with patch("eyot_core.photo.find.find_animal", slow):
            self.assertFalse(processing.look_over(str(photo.pk)).strip)
        photo.refresh_from_db()
        self.assertEqual((photo.line, photo.line_confidence, photo.find_done), (mine, None, 1))

    def test_a_line_that_is_hardly_sure_says_that_too(self) -> None:
        photo = self.added()
        with patch("eyot_core.photo.find.find_animal", return_value=Found(animal().line, 0.3, "not sure")):
            processing.look_over(str(photo.pk))
        self.assertContains(self.client.get(f"/photos/{photo.pk}/"), "Line found, not checked; not sure of it")


class NotFound(Lines):
    def test_why_no_line_was_found_stands_beside_the_photo_until_one_is_drawn(self) -> None:
        photo = self.made(self.added(np.full((300, 400, 3), 200, dtype=np.uint8)))
        self.assertEqual(photo.line, {})
        words = "No line found: nothing of an animal’s shape stands out from the ground"
        self.assertContains(self.client.get(f"/photos/{photo.pk}/"), words.replace("’", "&#x27;"))
        photo = self.change(photo, "line", points="50,50 100,60 150,70 200,60 250,50 300,60")
        self.assertEqual(photo.line_missing, "")

    def test_a_line_that_was_cleared_is_not_sought_again(self) -> None:
        photo = self.change(self.made(self.added()), "line", forget="1")
        self.assertEqual((self.made(photo).line, photo.line_confidence), ({}, None))

    def test_in_the_egg_and_of_heads_none_is_sought_until_it_is_said_that_a_body_is_shown(self) -> None:
        self.assertEqual(self.made(self.added(stage="egg")).line, {})
        photo = self.added()
        self.change(photo, "kind", kind="head")
        self.assertEqual(self.made(photo).line, {})
        photo = self.made(self.change(photo, "kind", kind="back"))
        self.assertTrue(photo.is_unchecked)

    def test_of_photos_from_before_lines_were_found_they_are_sought_once(self) -> None:
        photo = self.added()
        forget_jobs()
        Photo.objects.filter(pk=photo.pk).update(find_wanted=0, sizes_done=1)
        self.assertEqual((order_unsought(), order_unsought()), (1, 0))
        self.assertTrue(self.made(photo).is_unchecked)


class Cards(Lines):
    """A card beside the animal: its light, its scale, and whose photo it is."""

    def with_card(self, number: str = "26-W02-2", stage: str = "shed", **laid: Any) -> Photo:
        taken = animal().pixels
        card = Laid(
            number=number,
            middle=(0.14, 0.25),
            mm_per_pixel=CARDS_MM,
            width=taken.shape[1],
            height=taken.shape[0],
            **laid,
        )
        return self.made(self.added(photographed_cards(card, onto=taken), stage))

    def test_light_and_scale_are_taken_from_it_and_it_is_no_animal(self) -> None:
        photo = self.with_card()
        self.assertEqual((photo.light, photo.card_id), ("grey card", "26-W02-2"))
        self.assertTrue(photo.is_unchecked)
        self.assertEqual((photo.sizes_done, photo.sizes_wanted), (2, 2), "shown in its light")
        line = animal()
        true = float(np.hypot(*np.diff(line.line, axis=0).T).sum()) / (line.end - line.start) * CARDS_MM / 10
        self.assertLess(abs(photo.size["length"] / true - 1), 0.05)
        self.assertLess(abs(photo.size["length"] - true), 3 * photo.size["length_sd"])
        page = self.client.get(f"/photos/{photo.pk}/")
        self.assertContains(page, f"By the card beside it: length {photo.size['length']:.1f} ±")
        weighed = Weighing.objects.create(egg=photo.egg, grams=71, on=timezone.localdate(photo.taken_at))
        record = self.client.get("/clutches/W-02/2/record/")
        row = next(one for one in record.context["grown"] if one.length)
        self.assertEqual((row.on, row.grams), (weighed.on, 71), "a weight of the same day stands in the same row")
        self.assertContains(record, f"{photo.size['length']:.1f} ± {photo.size['length_sd']:.1f} cm")
        self.assertContains(record, f'href="/in/withy-bed/photos/{photo.pk}/">by its card')
        self.assertNotContains(page, "Its card says")

    def test_a_light_that_was_marked_stands(self) -> None:
        taken = animal().pixels
        card = Laid(middle=(0.14, 0.25), mm_per_pixel=CARDS_MM, width=taken.shape[1], height=taken.shape[0])
        photo = self.added(photographed_cards(card, onto=taken))
        Photo.objects.filter(pk=photo.pk).update(
            light="white paper", light_data={"card": "white paper", "gains": [1, 1, 1]}
        )
        self.assertEqual(self.made(photo).light, "white paper")

    def test_of_a_line_that_was_drawn_before_its_card_was_found_the_strip_is_made_anew(self) -> None:
        photo = self.with_card()
        Photo.objects.filter(pk=photo.pk).update(
            light="",
            light_data={},
            cards=[],
            size={},
            line_confidence=None,
            find_wanted=2,
            strip_done=1,
            strip_wanted=1,
        )
        tasks.look_over(str(photo.pk))
        photo.refresh_from_db()
        self.assertEqual((photo.light, photo.strip_wanted, photo.is_unchecked), ("grey card", 2, False))
        photo = self.made(photo)
        self.assertEqual((photo.strip_done, bool(photo.size)), (2, True))

    def test_in_the_egg_too_the_card_is_found_and_no_line_is_sought(self) -> None:
        photo = self.with_card(stage="egg")
        self.assertEqual((photo.card_id, photo.line, photo.line_missing), ("26-W02-2", {}, ""))

    def test_a_card_that_names_another_hatchling_is_asked_about_and_the_photo_moves(self) -> None:
        photo = self.with_card("26-W02-3")
        for page in (f"/photos/{photo.pk}/", f"/clutches/W-02/2/?photo={photo.pk}"):
            self.assertContains(self.client.get(page), "Its card says 26-W02-3")
        other = self.egg(3, "W-02")
        photo = self.change(photo, "whose", egg=str(other.pk))
        self.assertEqual((photo.egg, photo.card_overruled), (other, True))
        self.assertNotContains(self.client.get(f"/photos/{photo.pk}/"), "Its card says")
        kept = Change.objects.latest("pk")
        self.client.post(f"/history/{kept.pk}/take-back/")
        self.assertEqual(Photo.objects.get(pk=photo.pk).egg.number, 2)

    def test_it_may_stay_where_it_is_and_is_not_asked_again(self) -> None:
        photo = self.with_card("26-W02-3")
        photo = self.change(photo, "whose", egg=str(photo.egg_id))
        self.assertEqual(photo.egg.number, 2)
        self.assertNotContains(self.client.get(f"/photos/{photo.pk}/"), "Its card says")

    def test_a_card_of_nobody_here_is_told_and_another_collections_hatchling_is_no_choice(self) -> None:
        photo = self.with_card("26-X01-1")
        self.assertContains(self.client.get(f"/photos/{photo.pk}/"), "Its card says 26-X01-1, whom nobody here knows")
        stranger = self.neighbours.eggs.first()
        page = self.client.post(f"/photos/{photo.pk}/whose/", {"egg": str(stranger.pk)}, follow=True)
        self.assertContains(page, "That hatchling is not here. The photo stays where it is.")
        self.assertEqual(Photo.objects.get(pk=photo.pk).egg.number, 2)

    def test_two_cards_that_disagree_name_nobody(self) -> None:
        photo = Photo(cards=[{"id": "26-W02-1"}, {"id": "26-W02-2"}])
        self.assertEqual((photo.card_id, Photo(cards=[{"id": None}, {"id": "26-W02-2"}]).card_id), ("", "26-W02-2"))

    def test_a_card_whose_window_is_not_cut_out_tells_neither_light_nor_scale(self) -> None:
        photo = self.with_card(within=None)
        self.assertEqual((photo.card_id, photo.light, photo.size), ("26-W02-2", "", {}))
        self.assertContains(self.client.get(f"/photos/{photo.pk}/"), "Card uncut, or on a screen")

    def test_a_printed_grey_gives_light_once_it_is_set_also_to_photos_of_before(self) -> None:
        grey = (0.24, 0.2, 0.17)
        photo = self.with_card(grey=grey)
        self.assertEqual((photo.card_id, photo.light), ("26-W02-2", ""))
        self.assertContains(self.client.get("/cards/"), "Not set yet")
        on_paper = photographed_cards(
            Laid(grey=grey, ground=(0.8, 0.8, 0.8), cast=(0.7, 0.6, 0.5), width=800, height=600)
        )
        sent = SimpleUploadedFile("card.jpg", encoded(image=Image.fromarray(on_paper), quality=92))
        page = self.client.post("/cards/grey/", {"photo": sent}, follow=True)
        self.assertContains(page, "The printed grey is set. 1 photo with such a card get")
        shares = GreyPrint.objects.get().grey
        self.assertLess(max(abs(one / true - 1) for one, true in zip(shares, grey, strict=True)), 0.06)
        self.assertContains(page, f"throws back {100 * shares[0]:.0f} % of red light")
        photo = self.made(photo)
        self.assertEqual((photo.light, photo.sizes_done), ("printed grey", 2))
        again, other = self.with_card(grey=grey), self.with_card(grey=(0.17, 0.2, 0.24))
        self.assertEqual((again.light, bool(again.size)), ("printed grey", True))
        self.assertEqual(
            (other.light, other.size), ("", {}), "another printer's, or a screen, where it may have any size"
        )
        self.assertContains(self.client.get(f"/photos/{other.pk}/"), "Neither light nor size is taken from it")
        self.assertNotContains(self.client.get(f"/photos/{again.pk}/"), "Neither light nor size is taken from it")

    def test_a_photo_that_does_not_tell_the_grey_changes_nothing(self) -> None:
        blue = photographed_cards(Laid(grey=(0.2, 0.2, 0.2), ground=(0.3, 0.4, 0.6), width=800, height=600))
        for pixels, words in ((blue, "is no white paper"), (animal().pixels, "no card with printed grey is seen")):
            sent = SimpleUploadedFile("card.jpg", encoded(image=Image.fromarray(pixels), quality=92))
            self.assertContains(self.client.post("/cards/grey/", {"photo": sent}), words, status_code=422)
        self.assertContains(self.client.post("/cards/grey/"), "No picture came through", status_code=422)
        text = SimpleUploadedFile("card.jpg", b"no picture")
        self.assertContains(self.client.post("/cards/grey/", {"photo": text}), "still counts", status_code=422)
        self.assertFalse(GreyPrint.objects.exists())

    def test_cards_without_numbers_are_printed_for_any_animal(self) -> None:
        page = self.client.get("/cards/")
        for address in ("/cards/plain.pdf", "/cards/plain.pdf?printed-grey", "/clutches/W-02/cards.pdf?printed-grey"):
            self.assertContains(page, f'href="/in/withy-bed{address}"')
            self.assertTrue(self.client.get(address).content.startswith(b"%PDF"))

    def test_the_cards_of_a_clutch_are_a_pdf_with_one_for_each_egg(self) -> None:
        answer = self.client.get("/clutches/W-02/cards.pdf")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"))
        self.assertTrue(answer.content.startswith(b"%PDF"))
        self.assertContains(self.client.get("/clutches/W-02/"), "/clutches/W-02/cards.pdf")


class Bellies(Lines):
    def test_a_belly_is_unrolled_measured_and_suggests_answers_to_its_looks(self) -> None:
        looks = {**looks_of(3), "belly_marks": "tracks", "belly_edge": "clean", "ringer": "none"}
        taken = photographed(looks, 7, "belly", width=640, height=480)
        photo = self.made(self.change(self.added(taken.pixels), "kind", kind="belly"))
        self.assertEqual((photo.kind, photo.is_unchecked, photo.has_strip), ("belly", True, True))
        self.assertGreater(photo.measures["belly_two_rows"]["value"], 0.5)
        strip = self.client.get(f"/photos/{photo.pk}/")
        self.assertContains(strip, "pale ring")
        self.assertContains(strip, "Line found, not checked")
        bench = self.client.get(f"/clutches/W-02/2/?stage=shed&photo={photo.pk}").content.decode()
        self.assertRegex(
            bench, r'data-trait="belly_marks"[^>]*data-level="tracks"|data-level="tracks"[^>]*data-trait="belly_marks"'
        )

    def test_two_places_still_cut_a_frame(self) -> None:
        photo = self.made(self.change(self.added(), "kind", kind="belly"))
        photo = self.made(self.change(photo, "line", points="100,100 400,140"))
        self.assertEqual((photo.measures, photo.trouble, photo.has_strip), ({}, "", True))
