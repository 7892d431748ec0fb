"""Who may do what: every address, by each role, in one's own collection, in another's, and logged out."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta
from typing import Any
from unittest import TestCase
from uuid import uuid4

from django.contrib.auth import get_user_model
from django.test import Client
from django.urls import URLPattern, URLResolver, get_resolver
from django.utils import timezone

from eyot.accounts.urls import urlpatterns as accounts
from eyot.bench.invitations import invite
from eyot.bench.models import Invitation
from eyot.collection.models import Membership, Role
from eyot.collection.rights import BY_ROLE, NEEDED, may
from tests.demo_rows import Rows
from tests.web.season_data import SeasonCase

OF_A_PERSON = {
    "alive",
    "ready",
    "token",
    "worker",
    "manifest",
    "offline",
    "begin",
    "collections",
    "new-collection",
    "join",
}
OF_A_PERSON |= {str(one.name) for one in accounts}
OF_A_GUEST = {
    "invited",
    "invited-egg",
    "invited-answer",
    "invited-photo",
    "offer",
    "offer-one",
    "offer-ask",
    "offer-photo",
}
KINDS = {"IntConverter": "int", "SlugConverter": "slug", "StringConverter": "str", "UUIDConverter": "uuid"}
VALUES: dict[str, Any] = {
    "code": "W-04",
    "number": 3,
    "gene": "piebald",
    "gene_id": "piebald",
    "step": "received",
    "trait": "head_stamp",
    "key": "piebald",
    "keys": "fire~vanilla",
    "note_id": "none",
    "size": "thumb-1",
    "token": "none",
    "year": 2026,
    "photo_id": uuid4(),
}
"""What stands in the example of an address; a number of a row is 1."""


def addresses(patterns: list[Any] | None = None) -> Iterator[tuple[str, str]]:
    """Every address that there is: its name, and an example without the collection."""
    for one in patterns if patterns is not None else get_resolver().url_patterns:
        if isinstance(one, URLResolver):
            yield from addresses(one.url_patterns)
        elif isinstance(one, URLPattern):
            route = str(one.pattern)
            for name, converter in one.pattern.converters.items():
                route = route.replace(f"<{KINDS[type(converter).__name__]}:{name}>", str(VALUES.get(name, 1)))
            yield one.name or "", f"/{route}"


class Table(TestCase):
    def test_every_right_is_one_of_an_address_and_given_once(self) -> None:
        names = {name for name, _ in addresses()}
        self.assertEqual(set(NEEDED) - names, set())
        self.assertEqual(len(NEEDED), sum(len(rights) for rights in BY_ROLE.values()))

    def test_who_stands_higher_may_all_that_one_below_may(self) -> None:
        for name in NEEDED:
            allowed = [may(role, name) for role in Role]
            self.assertEqual(allowed, sorted(allowed), name)
            self.assertTrue(allowed[-1], name)

    def test_what_the_roles_are_for(self) -> None:
        for name, least in (
            *(("cut-look", Role.HELPER), ("look", Role.HELPER), ("add-photos", Role.HELPER)),
            *(
                ("weigh-egg", Role.HELPER),
                ("egg-day", Role.HELPER),
                ("take-back", Role.HELPER),
                ("call", Role.KEEPER),
                ("close-clutch", Role.KEEPER),
            ),
            *(("delete-animal", Role.KEEPER), ("photo-away", Role.KEEPER), ("schools", Role.OWNER)),
            *(("invite-member", Role.OWNER), ("change-role", Role.OWNER), ("leave-collection", Role.READER)),
        ):
            self.assertEqual([role for role in Role if may(role, name)], list(Role)[list(Role).index(least) :], name)


class EveryAddress(SeasonCase):
    """In one's collection 403 where the role does not reach; in one of others 404; the login for whom nobody knows."""

    def setUp(self) -> None:
        users: Any = get_user_model().objects
        self.by_role = {role: Client(raise_request_exception=False) for role in Role}
        for role, client in self.by_role.items():
            user = users.create_user(f"a {role}")
            Membership.objects.create(user=user, collection=self.collection, role=role)
            client.force_login(user)

    def of_collections(self) -> list[tuple[str, str]]:
        return [(name, path) for name, path in addresses() if name not in OF_A_PERSON | OF_A_GUEST]

    def status(self, client: Client, method: str, path: str, **headers: str) -> int:
        answer = client.generic(method, path, headers=headers)
        if answer.streaming:
            b"".join(answer)  # to its end, which closes its file
        return answer.status_code

    def test_what_changes_something_takes_its_role_and_is_refused_to_all_below(self) -> None:
        refused = 0
        for name, path in self.of_collections():
            for role, client in self.by_role.items():
                if not may(role, name):
                    for method in ("POST", "PUT", "PATCH", "DELETE") if role == Role.READER else ("POST",):
                        # As a part of a page, which answers in one line; that a whole page says so too is tested below.
                        status = self.status(client, method, f"/in/withy-bed{path}", **{"HX-Request": "true"})
                        self.assertEqual(status, 403, (name, role, method))
                        refused += 1
        self.assertGreater(refused, 400)

    def test_whoever_may_is_not_kept_away(self) -> None:
        """Nothing is sent along, so that most is refused for what it lacks, or finds nothing: never for the role."""
        for name, path in self.of_collections():
            if name in NEEDED and name != "leave-collection":
                client = self.by_role[NEEDED[name]]  # as a part of a page, whose refusals are one line
                status = self.status(client, "POST", f"/in/withy-bed{path}", **{"HX-Request": "true"})
                self.assertIn(status, (200, 204, 302, 404, 422), name)

    def test_readers_see_every_page(self) -> None:
        for name, path in self.of_collections():
            status = self.status(self.by_role[Role.READER], "GET", f"/in/withy-bed{path}")
            self.assertIn(status, (200, 302, 404, 405, 422), (name, path))

    def test_another_collection_is_not_here_and_nothing_is_for_whom_nobody_knows(self) -> None:
        """Nor for who belongs to no collection, nor for a guest by a link, whether it holds or has ended; and nothing is changed."""
        neighbour, loner, outside, guest, ended = (Client() for _ in range(5))
        neighbour.force_login(self.stranger)
        users: Any = get_user_model().objects
        loner.force_login(users.create_user("a loner"))
        now = timezone.now()
        for client, days in ((guest, 1), (ended, -1)):
            invitation = invite(self.clutch(), self.keeper, "Eye", 7, now)
            Invitation.objects.filter(pk=invitation.pk).update(expires_at=now + timedelta(days=days))
            self.assertEqual(client.get(f"/eye/{invitation.token}/").status_code, 200 if days > 0 else 404)
        before = Rows()
        for name, path in self.of_collections():
            for client, method, headers in (  # once as a page, else as a part of one, which is answered in one line
                *((neighbour, "GET", {}), (neighbour, "POST", {"HX-Request": "true"})),
                *((loner, method, {"HX-Request": "true"}) for method in ("GET", "POST")),
            ):
                self.assertEqual(self.status(client, method, f"/in/withy-bed{path}", **headers), 404, (name, method))
            for client in (outside, guest, ended):
                for method in ("GET", "POST"):
                    self.assertEqual(self.status(client, method, f"/in/withy-bed{path}"), 302, (name, method))
            self.assertEqual(self.status(outside, "POST", path), 302, name)
        self.assertEqual(Rows(), before)

    def test_every_address_of_a_guest_checks_the_invitation(self) -> None:
        for name, path in addresses():
            if name in OF_A_GUEST:
                for method in ("GET", "POST"):
                    self.assertIn(self.status(Client(), method, path), (404, 405), (name, method))

    def test_a_part_of_a_page_is_refused_in_words(self) -> None:
        page = self.by_role[Role.HELPER].post("/in/withy-bed/clutches/W-04/3/calls/")
        self.assertContains(page, "This takes a keeper.", status_code=403)
        answer = self.by_role[Role.HELPER].post("/in/withy-bed/clutches/W-04/3/calls/", headers={"HX-Request": "true"})
        self.assertEqual((answer.status_code, answer["Content-Type"]), (403, "text/plain"))
        self.assertIn("You are helper here", answer.content.decode())
        self.assertIn("This takes a keeper. Nothing was changed.", answer.content.decode())

    def test_a_helper_takes_back_a_slip_of_his_own_and_no_others(self) -> None:
        of_a_helper, page = self.by_role[Role.HELPER], "/in/withy-bed/clutches/W-04/record/"
        of_a_helper.post("/in/withy-bed/clutches/W-04/6/state/", {"state": "open"})
        self.by_role[Role.KEEPER].post("/in/withy-bed/clutches/W-04/7/state/", {"state": "open"})
        others, own = self.collection.changes.all()[:2]
        self.assertContains(of_a_helper.get(page), f"/history/{own.pk}/take-back/")
        self.assertNotContains(of_a_helper.get(page), f"/history/{others.pk}/take-back/")
        answer = of_a_helper.post(f"/in/withy-bed/history/{others.pk}/take-back/")
        self.assertContains(answer, "As helper you take back what you did yourself", status_code=422)
        of_a_helper.post(f"/in/withy-bed/history/{own.pk}/take-back/")
        states = dict(self.collection.clutches.get(code="W-04").eggs.values_list("number", "state"))
        self.assertEqual((states[6], states[7]), ("dented", "open"))
