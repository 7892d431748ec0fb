"""Members: invited by a link for one use, raised and lowered, removed and gone; and several collections of one person."""

from __future__ import annotations

import re
from datetime import UTC, date, datetime, timedelta
from unittest.mock import patch

from django.http import HttpResponse
from django.test import Client
from django.utils import timezone

from eyot.collection.history import changes_of
from eyot.collection.member_actions import invite_member, join, new_collection
from eyot.collection.models import Collection, MemberInvitation, Membership, Role
from eyot.season.models import Clutch
from eyot.shared.refusal import Refused
from tests.demo_rows import PASSWORD
from tests.web.season_data import SeasonCase


class MembersCase(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.now = timezone.now()

    def place_of(self, user: object) -> Membership:
        return Membership.objects.get(collection=self.collection, user=user)

    def invited(self, role: str = "helper", days: int = 7) -> MemberInvitation:
        return invite_member(self.collection, self.keeper, "Somebody", role, days, self.now)


class Invited(MembersCase):
    def test_a_link_makes_one_person_a_member_with_an_account_of_their_own(self) -> None:
        self.client.post("/members/invite/", {"name": "Night helper", "role": "helper", "days": "3"})
        made = MemberInvitation.objects.get(name="Night helper")
        self.assertContains(self.client.get("/members/"), f"/join/{made.token}/")
        new = Client()
        page = new.get(f"/join/{made.token}/")
        self.assertContains(page, "Withy Bed")
        self.assertContains(page, "closes no call")
        short = new.post(f"/join/{made.token}/", {"name": "rushlight", "password": "short"})
        self.assertContains(short, "too short", status_code=422)
        self.assertContains(short, "No account was made", status_code=422)
        answer = new.post(f"/join/{made.token}/", {"name": "rushlight", "password": "marsh-mallow-tea"})
        self.assertRedirects(answer, "/in/withy-bed/")
        self.assertEqual(Membership.objects.get(user__username="rushlight").role, "helper")
        self.assertEqual(changes_of(self.collection)[0].what, "rushlight joined as helper")

    def test_it_is_used_once_and_ends_by_time_and_by_withdrawing(self) -> None:
        used, late, withdrawn = self.invited(), self.invited(), self.invited()
        join(used, self.stranger, self.now)
        late.expires_at = self.now - timedelta(minutes=1)
        late.save()
        self.client.post(f"/members/invitations/{withdrawn.pk}/withdraw/")
        for one, words in ((used, "has been used"), (late, "has ended"), (withdrawn, "was withdrawn")):
            for answer in (Client().get(f"/join/{one.token}/"), Client().post(f"/join/{one.token}/", {"name": "x"})):
                self.assertContains(answer, words, status_code=404)
        self.assertContains(Client().get("/join/none/"), "leads nowhere", status_code=404)
        refused = self.client.post(f"/members/invitations/{used.pk}/withdraw/")
        self.assertContains(refused, "not open any more", status_code=422)

    def test_one_of_a_collection_that_is_gone_leads_nowhere(self) -> None:
        other = new_collection(self.keeper, "Gone soon")
        one = invite_member(other, self.keeper, "Somebody", "reader", 7, self.now)
        other.changes.all().delete()
        other.delete()
        self.assertContains(Client().get(f"/join/{one.token}/"), "leads nowhere", status_code=404)

    def test_who_is_logged_in_joins_with_one_press_and_who_belongs_already_uses_none(self) -> None:
        one = self.invited("reader")
        answer = self.client.post(f"/join/{one.token}/")
        self.assertContains(answer, "You belong to Withy Bed already", status_code=422)
        neighbour = Client()
        neighbour.force_login(self.stranger)
        self.assertContains(neighbour.get(f"/join/{one.token}/"), "You are logged in as <b>stranger</b>")
        self.assertRedirects(neighbour.post(f"/join/{one.token}/"), "/in/withy-bed/")

    def test_what_can_not_be_is_refused_and_what_was_typed_stays(self) -> None:
        for given, words in (
            ({"name": "", "role": "helper", "days": "7"}, "write a name"),
            ({"name": "Rush", "role": "king", "days": "7"}, "Choose what the new member may do"),
            ({"name": "Rush", "role": "helper", "days": "99"}, "1 to 60 days"),
        ):
            page = self.client.post("/members/invite/", given)
            self.assertContains(page, words, status_code=422)
            self.assertContains(page, f'value="{given["days"]}"', status_code=422)
        taken = Client().post(f"/join/{self.invited().token}/", {"name": "Keeper", "password": "marsh-mallow-tea"})
        self.assertContains(taken, "There is an account “Keeper” already", status_code=422)
        self.assertFalse(MemberInvitation.objects.exclude(used_at=None).exists())

    def test_in_a_race_it_is_used_once(self) -> None:
        one = self.invited()
        again = MemberInvitation.objects.get(pk=one.pk)
        join(one, self.stranger, self.now)
        with self.assertRaisesMessage(Refused, "has been used"):
            join(again, self.stranger, self.now)


class Roles(MembersCase):
    def send(self, user: object, what: str, **given: str) -> HttpResponse:
        return self.client.post(f"/members/{self.place_of(user).pk}/{what}/", given, follow=True)

    def test_a_helper_whose_role_changes_while_he_works_may_from_then_on_what_it_says(self) -> None:
        helper = Client()
        helper.force_login(self.helper)
        close = "/in/withy-bed/clutches/W-02/record/close/"
        self.assertContains(helper.post(close), "This takes a keeper", status_code=403)
        self.assertContains(self.send(self.helper, "role", role="keeper"), "helper is keeper now")
        self.assertEqual(helper.post(close).status_code, 302)
        self.send(self.helper, "role", role="reader")
        self.assertContains(helper.post(close), "You are reader here", status_code=403)
        self.assertIsNotNone(Clutch.objects.get(code="W-02").closed_on)

    def test_who_is_removed_has_no_way_in_and_keeps_the_name_on_what_was_done(self) -> None:
        helper = Client()
        helper.force_login(self.helper)
        helper.post("/in/withy-bed/clutches/W-04/7/state/", {"state": "open", "on": timezone.localdate().isoformat()})
        self.assertContains(self.send(self.helper, "remove"), "helper has no way in any more")
        self.assertEqual(helper.get("/in/withy-bed/").status_code, 404)
        self.assertIn(self.helper, [change.by for change in changes_of(self.collection)])

    def test_the_last_owner_neither_leaves_nor_is_lowered(self) -> None:
        for answer in (
            self.send(self.keeper, "role", role="keeper"),
            self.send(self.keeper, "remove"),
            self.client.post("/members/leave/"),
        ):
            self.assertContains(answer, "keeper is the only owner", status_code=422)
        self.send(self.helper, "role", role="owner")
        self.assertRedirects(self.client.post("/members/leave/"), "/collections/")
        self.assertEqual([one.user for one in self.collection.memberships.all()], [self.helper])

    def test_a_member_of_others_can_not_be_changed_from_here(self) -> None:
        place = Membership.objects.get(user=self.stranger)
        for what in ("role", "remove"):
            answer = self.client.post(f"/members/{place.pk}/{what}/", {"role": "reader"})
            self.assertContains(answer, "no member here", status_code=422)
        place.refresh_from_db()
        self.assertEqual(place.role, Role.OWNER)


class SeveralCollections(MembersCase):
    def test_an_address_means_one_collection_for_good(self) -> None:
        """Both have a clutch W-04 with an egg 7: each address shows and changes its own."""
        own = new_collection(self.keeper, "Own Reach")
        dam = own.animals.create(name="Rudd")
        clutch = Clutch.objects.create(collection=own, code="W-04", dam=dam, laid_on=timezone.localdate())
        clutch.eggs.create(number=7)
        there, here = "/in/own-reach/clutches/W-04/", "/in/withy-bed/clutches/W-04/"
        self.assertContains(self.client.get(there), "Rudd")
        self.assertContains(self.client.get(there), 'href="/in/own-reach/animals/"')
        self.assertContains(self.client.get(here), "Marram")
        self.client.post(f"{there}7/state/", {"state": "open", "on": timezone.localdate().isoformat()})
        self.assertEqual((clutch.eggs.get().state, self.egg(7).state), ("open", "shut"))

    def test_without_a_collection_an_old_address_means_the_oldest_and_the_way_in_the_last_seen(self) -> None:
        new_collection(self.keeper, "Own Reach")
        plain = Client()
        plain.force_login(self.keeper)
        plain.get("/in/own-reach/")
        self.assertRedirects(plain.get("/"), "/in/own-reach/")
        self.assertRedirects(plain.get("/clutches/W-04/3/?stage=egg"), "/in/withy-bed/clutches/W-04/3/?stage=egg")
        sent = plain.post("/clutches/W-04/7/state/", {"state": "open"})
        self.assertEqual((sent.status_code, sent["Location"]), (307, "/in/withy-bed/clutches/W-04/7/state/"))

    def test_one_is_made_in_the_app_and_empty(self) -> None:
        answer = self.client.post(
            "/collections/new/",
            {"collection": "Own Reach", "time_zone": "Australia/Sydney", "day_form": "day", "grade": "C"},
            follow=True,
        )
        self.assertContains(answer, "Own Reach is yours")
        made = Collection.objects.get(key="own-reach")
        self.assertEqual((made.memberships.get().role, made.time_zone), (Role.OWNER, "Australia/Sydney"))
        page = self.client.get("/collections/")
        self.assertContains(page, 'href="/in/own-reach/"')
        self.assertContains(page, 'href="/in/withy-bed/"')
        for given, words in (
            ({"collection": " "}, "needs a name"),
            ({"collection": "X", "time_zone": "Bog"}, "no time zone"),
        ):
            self.assertContains(self.client.post("/collections/new/", given), words, status_code=422)

    def test_a_day_begins_at_the_collections_own_midnight(self) -> None:
        """At seven in the evening of Greenwich it is tomorrow in Sydney already; and after that page in London again today."""
        evening = datetime(2026, 6, 12, 19, 0, tzinfo=UTC)
        new_collection(self.keeper, "Far Reach", "Australia/Sydney")
        with patch("django.utils.timezone.now", return_value=evening):
            days = [self.client.get(path).context["today"] for path in ("/in/far-reach/", "/")]
        self.assertEqual(days, [date(2026, 6, 13), date(2026, 6, 12)])

    def test_keys_are_after_the_name_and_no_two_alike(self) -> None:
        keys = [new_collection(self.keeper, name).key for name in ("Own Reach", "own reach!", "Wäter Räil", "水")]
        self.assertEqual(keys, ["own-reach", "own-reach-2", "water-rail", "collection"])


class Passwords(MembersCase):
    def new_link(self, user: object) -> str:
        page = self.client.post(f"/members/{self.place_of(user).pk}/new-password/", follow=True)
        (link,) = re.findall(r"/new-password/[\w-]+/", page.content.decode())
        return str(link)

    def test_one_changes_ones_own_and_other_logins_end(self) -> None:
        elsewhere = Client()
        elsewhere.force_login(self.keeper)
        for given, words in (
            ({"old": "wrong", "new": "marsh-mallow-tea"}, "not your password so far"),
            ({"old": PASSWORD, "new": "short"}, "too short"),
        ):
            self.assertContains(self.client.post("/account/", given), words, status_code=422)
        self.client.post("/account/", {"old": PASSWORD, "new": "marsh-mallow-tea"})
        self.assertEqual(self.client.get("/in/withy-bed/").status_code, 200)
        self.assertEqual(elsewhere.get("/in/withy-bed/").status_code, 302)
        self.keeper.refresh_from_db()
        self.assertTrue(self.keeper.check_password("marsh-mallow-tea"))

    def test_an_owner_makes_a_link_that_is_used_once(self) -> None:
        link, helper = self.new_link(self.helper), Client()
        self.assertContains(helper.get(link), "for helper")
        self.assertContains(helper.post(link, {"new": "short"}), "too short", status_code=422)
        self.assertRedirects(helper.post(link, {"new": "marsh-mallow-tea"}), "/login/")
        given = {"login": "helper", "password": "marsh-mallow-tea"}
        self.assertEqual(helper.post("/login/", given).status_code, 302)
        for answer in (Client().get(link), Client().post(link, {"new": "another-long-one"})):
            self.assertContains(answer, "This link has ended", status_code=404)
        for wrong in ("/new-password/none/", "/new-password/1-none/", f"/new-password/{self.keeper.pk}-x-y/"):
            self.assertEqual(Client().get(wrong).status_code, 404)

    def test_nobody_gets_at_another_collection_by_it(self) -> None:
        join(self.invited("reader"), self.stranger, self.now)
        answer = self.client.post(f"/members/{self.place_of(self.stranger).pk}/new-password/")
        self.assertContains(answer, "belongs to another collection too", status_code=422)
