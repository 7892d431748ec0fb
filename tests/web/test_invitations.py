"""Outside eyes: a link for one clutch, which shows photos and looks and nothing else, and ends."""

from __future__ import annotations

import re
import tempfile
from datetime import timedelta
from unittest.mock import patch
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, override_settings
from django.utils import timezone

from eyot.bench.actions import Answer, record_look
from eyot.bench.blind import eyes_on
from eyot.bench.invitations import invite, withdraw_invitation
from eyot.bench.models import Invitation, Look
from eyot.bench.siblings import judged
from eyot.photos.models import Photo
from eyot.shared.refusal import Refused
from tests.jobs import do_jobs, stored_in
from tests.web.season_data import SeasonCase
from tests.web.test_photos import encoded


class Invitations(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.now = timezone.now()
        self.invitation = invite(self.clutch(), self.keeper, "Old friend", 7, self.now)
        self.outside = Client()
        self.link = f"/eye/{self.invitation.token}/"

    def test_the_link_shows_the_clutchs_looks_and_no_chance_name_or_answer(self) -> None:
        record_look(self.egg(1), self.helper, Answer("head_stamp", "busy", "egg", "sure", uuid4()), self.now)
        for page in (self.outside.get(self.link), self.outside.get(f"{self.link}1/")):
            self.assertEqual(page.status_code, 200)
            for words in ("Marram", "Fathom", "Mojave", "after looking", "helper", "Withy Bed", 'aria-pressed="true"'):
                self.assertNotContains(page, words)
        self.assertContains(self.outside.get(f"{self.link}1/"), "What do you see?")

    def test_looks_and_a_guess_are_kept_under_the_guests_name(self) -> None:
        self.outside.post(f"{self.link}1/answer/", {"trait": "lobe_attach", "level": "floating"})
        self.outside.post(f"{self.link}1/answer/", {"guess": "mojave leopard"})
        look = Look.objects.get(seen_by=self.invitation.eye)
        self.assertEqual((look.trait, look.level, look.stage), ("lobe_attach", "floating", "egg"))
        self.assertTrue(look.seen_by.get_username().startswith("Old friend (invited"))
        self.assertContains(self.outside.get(f"{self.link}1/"), "You hold it to be <b>mojave leopard</b>")
        self.assertIn(look.seen_by.get_username(), eyes_on(judged(self.clutch()), self.egg(1)).people)

    def test_answers_from_outside_move_no_odds_until_a_member_lets_them(self) -> None:
        before, other = judged(self.clutch()), self.egg(1)
        for trait, level in (("lobe_attach", "floating"), ("head_stamp", "busy"), ("neck_blush", "strong")):
            self.outside.post(f"{self.link}1/answer/", {"trait": trait, "level": level})
        looks = Look.objects.filter(seen_by=self.invitation.eye)
        self.assertGreaterEqual(looks.count(), 2)

        def odds() -> list[float]:
            judgement = judged(self.clutch())
            index = judgement.index(other)
            return [
                judgement.chance_of(judgement.inference.posteriors[index].sums, *form) for form in judgement.forms()
            ]

        apart = odds()
        index = before.index(other)
        self.assertEqual(
            apart, [before.chance_of(before.inference.posteriors[index].sums, *form) for form in before.forms()]
        )
        self.assertContains(self.client.get("/clutches/W-04/1/"), "counts nowhere until a member lets it")
        count = f"/clutches/W-04/1/eyes/{self.invitation.pk}/count/"
        self.client.post(count, {"counts": "yes"})
        self.assertNotEqual(odds(), apart)
        self.client.post(count, {"counts": "no"})
        self.assertEqual(odds(), apart)

    def test_a_link_takes_so_many_answers_and_no_more(self) -> None:
        with patch("eyot.bench.invitations.MOST_ANSWERS", 2):
            for level in ("floating", "attached"):
                self.outside.post(f"{self.link}1/answer/", {"trait": "lobe_attach", "level": level})
            answer = self.outside.post(f"{self.link}1/answer/", {"trait": "head_stamp", "level": "busy"})
        self.assertContains(answer, "the most that one takes", status_code=422)
        self.assertEqual(Look.objects.filter(seen_by=self.invitation.eye).count(), 2)

    def test_a_photo_of_another_clutch_is_not_reached_by_the_link(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        with override_settings(STORAGES=stored_in(folder.name)):
            for code, status in (("W-04", 200), ("W-02", 404)):
                sent = {"photo": SimpleUploadedFile("egg.jpg", encoded()), "key": str(uuid4())}
                self.client.post(f"/clutches/{code}/1/cut/photo/", sent)
                photo = Photo.objects.get(egg__clutch__code=code)
                do_jobs()
                answer = self.outside.get(f"{self.link}photos/{photo.pk}/thumb-1.jpg")
                self.assertEqual(answer.status_code, status, code)
                if answer.streaming:
                    b"".join(answer)  # to its end, which closes its file

    def test_nothing_else_is_open_to_the_guest(self) -> None:
        self.outside.get(self.link)
        for path in ("/", "/clutches/W-04/", "/clutches/W-04/1/", "/animals/"):
            answer = self.outside.get(path)
            self.assertEqual((answer.status_code, answer["Location"].split("?")[0]), (302, "/login/"))
        self.assertEqual(self.outside.get(f"{self.link}7/").status_code, 404)
        self.assertEqual(self.outside.get(f"{self.link}photos/{uuid4()}/thumb-1.jpg").status_code, 404)
        self.assertFalse(self.invitation.eye.has_usable_password() or self.invitation.eye.is_active)

    def test_it_ends_by_time_and_by_withdrawing(self) -> None:
        Invitation.objects.update(expires_at=self.now - timedelta(minutes=1))
        for path in ("", "1/"):
            self.assertContains(self.outside.get(self.link + path), "has ended", status_code=404)
        Invitation.objects.update(expires_at=self.now + timedelta(days=1))
        self.assertEqual(self.outside.get(self.link).status_code, 200)
        withdraw_invitation(self.collection, self.invitation.pk, self.now)
        answer = self.outside.post(f"{self.link}1/answer/", {"trait": "lobe_attach", "level": "floating"})
        self.assertEqual(answer.status_code, 404)
        self.assertFalse(Look.objects.filter(seen_by=self.invitation.eye).exists())

    def test_members_make_and_withdraw_links_on_the_page(self) -> None:
        self.client.post("/clutches/W-04/1/eyes/invite/", {"name": "Second", "days": "3"})
        page = self.client.get("/clutches/W-04/1/eyes/")
        made = Invitation.objects.get(name="Second")
        self.assertContains(page, f"/eye/{made.token}/")
        self.client.post(f"/clutches/W-04/1/eyes/{made.pk}/withdraw/")
        self.assertNotContains(self.client.get("/clutches/W-04/1/eyes/"), made.token)

    def test_what_can_not_be_is_refused(self) -> None:
        for name, days, words in (("", 7, "write a name"), ("X", 0, "1 to 60 days"), ("X", 400, "1 to 60 days")):
            with self.subTest(words), self.assertRaisesMessage(Refused, words):
                invite(self.clutch(), self.keeper, name, days, self.now)
        with self.assertRaises(Refused):
            withdraw_invitation(self.neighbours.collection, self.invitation.pk, self.now)
        refused = self.client.post("/clutches/W-04/1/eyes/invite/", {"name": "X", "days": "many"})
        self.assertContains(refused, "Days: “many” is not a number", status_code=422)
        self.assertEqual(self.client.post("/clutches/X-01/1/eyes/invite/", {"name": "X", "days": "3"}).status_code, 404)
        answer = self.outside.post(f"{self.link}1/answer/", {"trait": "lobe_attach", "level": "green"})
        self.assertContains(answer, "is not an answer", status_code=422)

    def test_tokens_are_long_and_not_alike(self) -> None:
        other = invite(self.clutch(), self.keeper, "Old friend", 7, self.now)
        self.assertNotEqual(other.token, self.invitation.token)
        self.assertTrue(re.fullmatch(r"[\w-]{32}", other.token))
