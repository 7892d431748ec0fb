"""The inbox: files come in and are told apart, cards file them, what is not sure waits, and a hand decides."""

from __future__ import annotations

import io
import tempfile
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any
from unittest.mock import patch
from uuid import uuid4

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from django.utils import timezone
from PIL import Image

from eyot.capture.arrivals import CLAIMED, REFUSED, watched_folder
from eyot.collection.models import Change
from eyot.demo import loading
from eyot.demo.loading import NOT_MARKED, drop_evening
from eyot.inbox.filing import end_idle_drops
from eyot.inbox.models import IDLE, Drop, InboxPhoto
from eyot.photos import files
from eyot.photos.actions import add_photo
from eyot.photos.models import Photo
from eyot.season.models import Egg
from tests.core.cards import Laid, photographed_cards
from tests.jobs import do_jobs, forget_jobs
from tests.web.test_lines_found import Lines, animal

State = InboxPhoto.State
MINUTE = timedelta(minutes=1)


def card(number: str, **more: Any) -> np.ndarray:
    """A photo of a card alone."""
    return photographed_cards(Laid(number=number, width=640, height=480, mm_per_pixel=0.3, **more))


def with_card(number: str) -> np.ndarray:
    """A photo of an animal with a card beside it."""
    pixels = animal().pixels
    height, width = pixels.shape[:2]
    laid = Laid(number=number, width=width, height=height, mm_per_pixel=0.5, middle=(0.13, 0.15), blur=0.3, noise=0.5)
    return photographed_cards(laid, onto=pixels)


class Inbox(Lines):
    """An evening in August, a photo a minute."""

    def setUp(self) -> None:
        super().setUp()
        forget_jobs()
        self.drop, self.minute = uuid4(), 0
        self.evening = timezone.make_aware(datetime(2026, 6, 11, 19, 0))  # noqa: DTZ001  made aware in the line itself

    def file_of(self, pixels: np.ndarray | bytes, taken: datetime | None, *, camera: str = "One") -> bytes:
        if isinstance(pixels, bytes):
            return pixels
        held, exif = io.BytesIO(), Image.Exif()
        if taken:
            exif.get_ifd(0x8769)[0x9003] = f"{timezone.localtime(taken):%Y:%m:%d %H:%M:%S}"
        exif[0x0110] = camera
        Image.fromarray(pixels).save(held, "JPEG", quality=92, exif=exif)
        return held.getvalue()

    def send(
        self, pixels: np.ndarray | bytes, name: str = "", *, at: datetime | None = None, **more: Any
    ) -> InboxPhoto:
        """Sends one file, taken a minute after the one before unless said otherwise; done by the worker at once if it is the last."""
        self.minute += 1
        taken = at or self.evening + self.minute * MINUTE
        how = {"key": uuid4(), "drop": self.drop, "place": self.minute} | more
        camera = how.pop("camera", "One")
        data = how.pop("data", None) or self.file_of(pixels, how.pop("taken", taken), camera=camera)
        photo = SimpleUploadedFile(name or f"shot-{self.minute}.jpg", data)
        answer = self.client.post("/inbox/add/", how | {"photo": photo})
        self.assertEqual(answer.status_code, 204, answer.content)
        return InboxPhoto.objects.get(pk=how["key"])

    def work(self, *, end: bool = True) -> None:
        """The worker does all there is to do; before that the page says that the drop has ended."""
        if end:
            self.assertEqual(self.client.post("/inbox/end/", {"drop": self.drop}).status_code, 204)
        self.made_all()

    def made_all(self) -> None:
        while do_jobs():
            pass

    def egg(self, number: int, code: str = "W-02") -> Egg:
        return super().egg(number, code)

    def standing(self) -> list[tuple[str, str]]:
        """Name of the hatchling or why it waits, by the order sent."""
        rows = InboxPhoto.objects.order_by("place")
        return [(row.state, row.named if row.state == State.FILED else row.why) for row in rows]

    def decide(self, what: str, rows: list[InboxPhoto], **more: Any) -> str:
        answer = self.client.post(f"/inbox/{what}/", {"photo": [str(row.pk) for row in rows], **more})
        self.assertEqual(answer.status_code, 200)
        return answer.content.decode()


class TheDemosEvening(Inbox):
    def test_its_photos_come_by_the_inbox_are_filed_by_their_cards_and_marked_as_simulated(self) -> None:
        first, fourth = self.egg(1), self.egg(NOT_MARKED)
        pixels = {first.number: with_card(first.code), fourth.number: animal().pixels}
        taken = {("W-02", n, "shed", "back"): replace(animal(), pixels=one) for n, one in pixels.items()}
        in_the_egg = {("W-02", 1, "egg", "back"): animal()}
        drop_evening([first, self.egg(2), fourth], taken | in_the_egg, self.keeper)
        self.made_all()
        filed = {photo.egg: photo for photo in Photo.objects.filter(taken_at__date=loading._seen_on(first))}
        self.assertEqual(filed.keys(), {first, fourth}, "nobody has photographed egg 2")
        self.assertEqual([photo.simulated for photo in filed.values()], [True, True])
        self.assertEqual((filed[first].light, filed[fourth].light), ("grey card", ""))
        by = {row.named: row.filed_by for row in InboxPhoto.objects.filter(state=State.FILED)}
        self.assertEqual(by, {first.code: "card", fourth.code: "last-card"})
        self.assertEqual(InboxPhoto.objects.filter(state=State.CARD).count(), 1)


class ByCards(Inbox):
    def test_card_first_then_the_animal(self) -> None:
        first, second = self.egg(1), self.egg(2)
        self.send(card(first.code))
        self.send(animal().pixels)
        self.send(with_card(second.code))
        self.work()
        self.assertEqual(self.standing(), [(State.CARD, ""), (State.FILED, first.code), (State.FILED, second.code)])
        mine = Photo.objects.get(egg=first)
        self.assertEqual(mine.taken_at, self.evening + 2 * MINUTE)
        self.assertEqual((mine.came_as.filed_by, mine.kind), ("last-card", "back"))
        self.assertTrue(mine.has_strip, "the line that was found is used")
        self.assertTrue(mine.is_unchecked)
        theirs = Photo.objects.get(egg=second)
        self.assertEqual((theirs.card_id, theirs.light), (second.code, "grey card"))
        self.assertGreater(theirs.size["length"], 5)
        self.assertEqual((theirs.sizes_done, theirs.sizes_wanted), (1, 1), "its sizes were made in its light already")
        self.assertEqual(self.client.get(f"/photos/{theirs.pk}/{theirs.thumb}.jpg").status_code, 200)

    def test_nothing_is_filed_by_a_last_card_before_the_drop_has_ended(self) -> None:
        one = self.egg(1)
        self.send(with_card(one.code))
        self.send(animal().pixels)
        self.work(end=False)
        self.assertEqual(self.standing(), [(State.FILED, one.code), (State.WAITS, "not-looked-at")])
        late = self.send(card(self.egg(2).code), at=self.evening + 1.5 * MINUTE)
        self.work()
        self.assertEqual(self.standing()[1], (State.FILED, self.egg(2).code))
        late.refresh_from_db()
        self.assertEqual(late.state, State.CARD)

    def test_a_page_that_was_closed_holds_nothing_back(self) -> None:
        one = self.egg(1)
        self.send(with_card(one.code))
        self.send(animal().pixels)
        self.work(end=False)
        self.assertEqual(end_idle_drops(timezone.now()), 0)
        self.assertEqual(end_idle_drops(timezone.now() + IDLE + MINUTE), 1)
        self.assertEqual(self.standing()[1], (State.FILED, one.code))

    def test_two_cameras_of_one_evening_do_not_mix(self) -> None:
        one = self.egg(1)
        self.send(with_card(one.code), camera="One")
        self.send(animal().pixels, camera="Two")
        self.work()
        self.assertEqual(self.standing(), [(State.FILED, one.code), (State.WAITS, "no-card")])

    def test_cards_that_say_nothing_sure_are_asked_about(self) -> None:
        one, two = self.egg(1), self.egg(2)
        both = photographed_cards(
            Laid(number=one.code, width=640, height=480, mm_per_pixel=0.33, middle=(0.27, 0.5)),
            Laid(number=two.code, width=640, height=480, mm_per_pixel=0.33, middle=(0.75, 0.5)),
        )
        self.send(with_card(one.code))
        self.send(both)
        self.send(animal().pixels)
        self.send(card("26-X01-9"))
        self.send(np.ascontiguousarray(card(one.code)[:, ::-1]))
        self.send(card("W-02"))
        self.send(animal().pixels, taken=self.evening + 7 * MINUTE)
        self.work()
        waits = [why for state, why in self.standing()[1:]]
        self.assertEqual(waits, ["several-cards", "after-unread", "stranger", "unread-card", "", "clutch-card"])
        self.assertEqual(Photo.objects.count(), 1)

    def test_a_neighbours_card_is_a_strangers(self) -> None:
        self.send(with_card(self.neighbours.eggs.get().code))
        self.work()
        self.assertEqual(self.standing(), [(State.WAITS, "stranger")])


class WhatComes(Inbox):
    def test_no_picture_is_noted_and_the_others_go_on(self) -> None:
        self.send(b"hello", "notes.jpg")
        self.send(with_card(self.egg(1).code))
        self.work()
        self.assertEqual([state for state, _ in self.standing()], [State.REFUSED, State.FILED])
        page = self.client.get("/inbox/").content.decode()
        self.assertIn("notes.jpg is not a JPEG", page)

    def test_the_same_file_twice_is_known_and_says_where_it_is(self) -> None:
        data = self.file_of(with_card(self.egg(1).code), self.evening)
        self.send(b"", data=data)
        self.work()
        twice = self.send(b"", "renamed.jpg", data=data)
        self.assertEqual(twice.state, State.KNOWN)
        self.assertEqual(Photo.objects.count(), 1)
        page = self.client.get("/inbox/").content.decode()
        self.assertIn("<b>renamed.jpg</b> is the same file as shot-1.jpg", page)
        self.assertIn("egg 1 of W-02", page)

    def test_saved_again_and_smaller_it_is_asked_about(self) -> None:
        pixels = with_card(self.egg(1).code)
        first = self.send(pixels)
        self.work()
        small = np.asarray(Image.fromarray(pixels).resize((400, 300), Image.Resampling.LANCZOS))
        again = self.send(small, taken=None, modified="1780000000000")
        self.work()
        again.refresh_from_db()
        self.assertEqual((again.state, again.why, again.same_as), (State.WAITS, "same", first))
        self.assertIn("it looks like shot-1.jpg", self.client.get("/inbox/").content.decode())

    def test_what_was_added_on_another_page_is_asked_about_too(self) -> None:
        pixels = np.ascontiguousarray(animal().pixels)
        upload = SimpleUploadedFile("flank.jpg", self.file_of(pixels, self.evening))
        photo = add_photo(self.egg(2), self.keeper, upload, "shed", timezone.now())
        small = np.asarray(Image.fromarray(pixels).resize((400, 300), Image.Resampling.LANCZOS))
        written = str(int(self.evening.timestamp() * 1000))
        again = self.send(small, "small.jpg", taken=None, modified=written)
        other = self.send(np.ascontiguousarray(pixels[:, ::-1]), "other.jpg", taken=None, modified=written)
        self.work()
        again.refresh_from_db()
        other.refresh_from_db()
        self.assertEqual((again.state, again.why, again.stands_as), (State.WAITS, "same", photo))
        self.assertIsNone(other.stands_as)
        self.assertIn("it looks like the photo of W-02, egg 2", self.client.get("/inbox/").content.decode())

    def test_one_key_sent_twice_is_one(self) -> None:
        key, data = uuid4(), self.file_of(animal().pixels, self.evening)
        for _ in range(2):
            self.send(b"", data=data, key=key)
        self.assertEqual(InboxPhoto.objects.count(), 1)
        self.assertEqual(Drop.objects.count(), 1)

    def test_dates_that_cannot_be_are_told_and_not_used(self) -> None:
        one = self.egg(1)
        for year, said in ((1970, "1970-01-01 00:00"), (2031, "2031-01-01 00:00")):
            row = self.send(animal().pixels, taken=timezone.make_aware(datetime(year, 1, 1)))  # noqa: DTZ001
            self.assertEqual((row.taken_at, row.dated_by, row.date_said), (None, "", said))
            InboxPhoto.objects.all().delete()
        self.send(with_card(one.code))
        self.send(np.ascontiguousarray(animal().pixels[::-1]), taken=timezone.make_aware(datetime(1970, 1, 1)))  # noqa: DTZ001
        self.work()
        self.assertEqual(self.standing()[1], (State.WAITS, "no-date"))
        self.assertIn("dated 1970-01-01", self.client.get("/inbox/").content.decode())

    def test_without_the_cameras_date_the_files_counts(self) -> None:
        written = (timezone.now() - timedelta(days=1)).replace(microsecond=250_000)
        row = self.send(animal().pixels, taken=None, modified=str(int(written.timestamp() * 1000)))
        self.assertEqual(row.dated_by, "file")
        self.assertEqual(row.taken_at, written)

    def test_what_is_missing_in_a_sending_is_refused_in_words(self) -> None:
        answer = self.client.post("/inbox/add/", {"key": uuid4(), "drop": "nothing"})
        self.assertEqual((answer.status_code, answer["Content-Type"].split(";")[0]), (422, "text/plain"))
        self.assertEqual(self.client.post("/inbox/end/", {}).status_code, 422)
        self.assertFalse(InboxPhoto.objects.exists())

    def test_a_full_store_leaves_no_row(self) -> None:
        with patch("eyot.photos.files.keep_original", side_effect=OSError("no space")), self.assertRaises(OSError):
            self.send(animal().pixels)
        self.assertFalse(InboxPhoto.objects.exists())

    def test_what_could_not_be_looked_at_is_looked_at_once_more(self) -> None:
        row = self.send(with_card(self.egg(1).code))
        forget_jobs()
        self.assertIn("1 could not be looked at", self.client.get("/inbox/").content.decode())
        self.assertIn("1 photo looked at once more", self.decide("again", []))
        self.work()
        row.refresh_from_db()
        self.assertEqual(row.state, State.FILED)


class ByHand(Inbox):
    def waiting(self) -> InboxPhoto:
        row = self.send(animal().pixels)
        self.work()
        row.refresh_from_db()
        self.assertEqual(row.state, State.WAITS)
        return row

    def test_picked_photos_are_filed_with_an_egg(self) -> None:
        row, egg = self.waiting(), self.egg(3)
        page = self.decide("file", [row], egg=str(egg.pk), clutch="W-02")
        self.assertIn("1 photo filed with egg 3 of W-02.", page)
        photo = Photo.objects.get(egg=egg)
        self.assertEqual((photo.pk, photo.came_as.filed_by, photo.kind), (row.pk, "hand", "back"))

    def test_kind_and_stage_may_be_said(self) -> None:
        row = self.waiting()
        self.decide("file", [row], egg=str(self.egg(3).pk), kind="belly", stage="blue")
        photo = Photo.objects.get()
        self.assertEqual((photo.kind, photo.stage, bool(photo.line)), ("belly", "blue", True))
        other = self.decide("file", [row], egg=str(self.egg(3).pk), kind="portrait")
        self.assertIn("Nothing was changed", other)

    def test_without_an_egg_or_a_photo_nothing_happens(self) -> None:
        row = self.waiting()
        self.assertIn("choose an egg", self.decide("file", [row]))
        self.assertIn("No photo is picked", self.decide("file", [], egg=str(self.egg(3).pk)))
        self.assertIn("choose an egg", self.decide("file", [row], egg="9" * 12))
        self.assertFalse(Photo.objects.exists())

    def test_one_of_several_that_is_gone_stops_all(self) -> None:
        row = self.waiting()
        self.decide("out", [row])
        other = self.send(np.ascontiguousarray(animal().pixels[:, ::-1]))
        self.work()
        page = self.decide("back", [row, other])
        self.assertIn("1 of the 2 picked photos wait no more", page)
        row.refresh_from_db()
        self.assertEqual(row.state, State.LEFT_OUT)

    def test_put_back_and_filed_elsewhere_it_is_the_same_photo_with_its_marks(self) -> None:
        row, egg = self.waiting(), self.egg(3)
        self.decide("file", [row], egg=str(egg.pk))
        self.made_all()
        line = Photo.objects.get().line
        self.assertIn("put back", self.decide("back", [row]))
        self.assertFalse(Photo.objects.exists())
        row.refresh_from_db()
        self.assertEqual((row.state, row.by_hand), (State.WAITS, True))
        self.decide("file", [row], egg=str(self.egg(4).pk))
        photo = Photo.objects.get()
        self.assertEqual((photo.egg, photo.line), (self.egg(4), line))
        words = list(Change.objects.order_by("-at", "-pk").values_list("what", flat=True)[:2])
        self.assertEqual(
            words, ["W-02, egg 4: a photo filed from the inbox", "W-02, egg 3: a photo put back into the inbox"]
        )

    def test_what_was_put_back_no_card_files_again(self) -> None:
        row = self.send(with_card(self.egg(1).code))
        self.work()
        self.decide("back", [row])
        self.send(np.ascontiguousarray(animal().pixels[:, ::-1]))
        self.work()
        row.refresh_from_db()
        self.assertEqual((row.state, row.why), (State.WAITS, "put-back"))

    def test_left_out_it_asks_no_more_and_can_come_back(self) -> None:
        row = self.waiting()
        page = self.decide("out", [row])
        self.assertIn("1 photo left out", page)
        self.assertIn("Put back", page)
        self.assertIn("1 photo put back", self.decide("back", [row]))
        row.refresh_from_db()
        self.assertEqual(row.state, State.WAITS)
        self.assertTrue(files.has_original(row.folder))


class ThePage(Inbox):
    def test_it_asks_and_is_answered_only_when_something_changed(self) -> None:
        row = self.send(animal().pixels)
        first = self.client.post("/inbox/arrivals/", {"seen": ""})
        self.assertIn("to be looked at", first.content.decode())
        seen = first.context["inbox"].stamp
        self.assertEqual(self.client.post("/inbox/arrivals/", {"seen": seen}).status_code, 204)
        self.work()
        self.assertEqual(self.client.post("/inbox/arrivals/", {"seen": seen}).status_code, 200)
        self.assertEqual(self.client.get(f"/inbox/{row.pk}/thumb-1.jpg")["Content-Type"], "image/jpeg")

    def test_the_watched_folder_comes_in_while_it_is_open(self) -> None:
        self.enterContext(override_settings(ARRIVING_ROOT=self.enterContext(tempfile.TemporaryDirectory())))
        folder = watched_folder(self.collection)
        good, bad = folder / "evening.jpg", folder / "bad.jpg"
        good.write_bytes(self.file_of(with_card(self.egg(1).code), self.evening))
        bad.write_bytes(b"no picture")
        self.client.post("/inbox/arrivals/", {"watching": str(self.drop)})
        self.assertEqual(InboxPhoto.objects.count(), 0, "they may still be written to")
        with patch("eyot.capture.arrivals.SETTLED_SECONDS", -1.0):
            answer = self.client.post("/inbox/arrivals/", {"watching": str(self.drop)})
        self.assertIn("It lies in “refused” now", answer.content.decode())
        self.assertEqual([path.name for path in (folder / REFUSED).iterdir()], ["bad.jpg"])
        self.assertEqual(list((folder / CLAIMED).iterdir()), [])
        self.work()
        self.assertEqual(Photo.objects.get().egg, self.egg(1))

    def test_photos_of_another_collection_are_out_of_reach(self) -> None:
        row = self.send(animal().pixels)
        self.work()
        InboxPhoto.objects.update(collection=self.neighbours.collection)
        self.assertEqual(self.client.get(f"/inbox/{row.pk}/thumb-1.jpg").status_code, 404)
        self.assertIn("not in the inbox any more", self.decide("file", [row], egg=str(self.egg(1).pk)))
        self.assertEqual(self.client.post("/inbox/add/", {"key": row.pk, "drop": self.drop}).status_code, 422)
