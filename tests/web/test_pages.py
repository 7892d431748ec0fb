"""Pages: status, fragment against page, bounded queries, another collection's data refused, calm errors."""

from __future__ import annotations

from unittest.mock import patch
from urllib.parse import parse_qs, urlsplit
from uuid import uuid4

from axes.models import AccessFailureLog
from django.core.cache import cache
from django.db import OperationalError, connection
from django.http import HttpResponse
from django.test import Client, RequestFactory, override_settings
from django.utils import timezone

from eyot.accounts import guessing
from eyot.bench.models import Look
from eyot.shared.proxy import client_address
from tests.demo_rows import PASSWORD
from tests.web.season_data import SeasonCase

HTMX = {"HTTP_HX_REQUEST": "true"}


class Pages(SeasonCase):
    def test_every_page_answers(self) -> None:
        pages = ["/", "/animals/", *(f"/clutches/{code}/" for code in ("V-09", "W-02", "W-03", "W-04", "W-06", "W-07"))]
        pages += [
            "/clutches/W-04/3/",
            "/clutches/W-04/7/",
            "/clutches/W-02/2/?stage=egg",
            "/clutches/W-02/2/?stage=moon",
        ]
        for page in pages:
            with self.subTest(page):
                self.assertEqual(self.client.get(page).status_code, 200)

    def test_the_number_of_queries_does_not_grow_with_the_eggs(self) -> None:
        for page, most in (("/", 14), ("/animals/", 9), ("/clutches/W-04/", 25), ("/clutches/W-03/2/", 24)):
            with self.subTest(page):
                self.client.get(page)
                with self.assertNumQueries(FewerThan(most)):
                    self.client.get(page)

    def test_an_unknown_egg_is_not_here(self) -> None:
        for page in ("/clutches/W-04/99/", "/clutches/Z-99/", "/photos/7d8f7c6e-0000-4000-8000-000000000000/page.jpg"):
            answer = self.client.get(page)
            self.assertContains(answer, "Not here", status_code=404)

    def test_another_collections_clutch_is_not_here_and_not_named(self) -> None:
        for page in ("/clutches/X-01/", "/clutches/X-01/1/"):
            answer = self.client.get(page)
            self.assertEqual(answer.status_code, 404)
            self.assertNotContains(answer, "Rudd", status_code=404)
        answer = self.client.post("/clutches/X-01/1/looks/", {"trait": "head_stamp", "level": "busy", "stage": "egg"})
        self.assertEqual(answer.status_code, 404)
        self.assertFalse(Look.objects.filter(egg__clutch=self.neighbours).exists())
        self.log_in_the_neighbour()
        self.assertEqual(self.client.get("/clutches/X-01/1/").status_code, 200)
        for page in ("/clutches/W-04/", "/in/withy-bed/clutches/W-04/", "/in/withy-bed/", "/in/no-such/"):
            self.assertEqual(self.client.get(page).status_code, 404, page)

    def test_true_genotypes_are_nowhere_on_the_page(self) -> None:
        self.assertNotContains(self.client.get("/clutches/W-04/3/"), "piebald piebald")


class FewerThan(int):
    """Equal to any count up to itself, for assertNumQueries."""

    def __eq__(self, other: object) -> bool:
        return isinstance(other, int) and other <= int(self)

    __hash__ = int.__hash__


class Answers(SeasonCase):
    url = "/clutches/W-04/3/looks/"

    def post(self, **changed: str) -> HttpResponse:
        values = {
            "trait": "white_layout",
            "level": "saddles",
            "stage": "egg",
            "confidence": "sure",
            "key": str(uuid4()),
        }
        return self.client.post(self.url, values | changed, **HTMX)  # type: ignore[return-value]

    def test_the_fragment_is_what_the_page_holds(self) -> None:
        fragment = self.post().content.decode()
        page = self.client.get("/clutches/W-04/3/").content.decode()
        start, end = fragment.index('<section class="genes"'), fragment.index('<section class="side">')
        self.assertIn(fragment[start:end], page)
        self.assertIn('hx-swap-oob="true"', fragment)
        self.assertNotIn("<html", fragment)

    def test_an_unknown_level_is_refused_with_what_still_stands(self) -> None:
        answer = self.post(level="stripes")
        self.assertContains(answer, "Nothing was changed; your other answers stand", status_code=422)
        self.assertFalse(Look.objects.filter(egg=self.egg(3)).exists())

    def test_without_scripts_an_answer_leads_back_to_the_page(self) -> None:
        answer = self.client.post(self.url, {"trait": "white_layout", "level": "saddles", "stage": "egg"})
        self.assertRedirects(answer, "/clutches/W-04/3/?stage=egg")

    def test_a_shut_egg_is_refused_in_words(self) -> None:
        answer = self.client.post(
            "/clutches/W-04/7/looks/", {"trait": "white_layout", "level": "saddles", "stage": "egg"}
        )
        self.assertContains(answer, "Egg 7 is not open", status_code=422)

    def test_a_look_is_taken_back_and_stays_in_the_trail(self) -> None:
        self.post()
        look = Look.objects.get(egg=self.egg(3))
        answer = self.client.post(f"/clutches/W-04/3/looks/{look.pk}/withdraw/", {"stage": "egg"}, **HTMX)
        self.assertContains(answer, "taken back")
        self.assertEqual(
            self.client.post(f"/clutches/W-04/3/looks/{look.pk + 999}/withdraw/", {}, **HTMX).status_code, 422
        )

    def test_a_call_is_made_and_shown(self) -> None:
        values = {"stage": "egg", "key": str(uuid4()), "note": "white in the window", "verdict-mojave": "not"}
        values |= {"verdict-piebald": "sure", "copies-piebald": "2", "verdict-leopard": "possible"}
        answer = self.client.post("/clutches/W-04/3/calls/", values, **HTMX)
        self.assertContains(answer, "Piebald, possible Leopard")
        self.assertContains(answer, "white in the window")
        self.assertContains(self.client.get("/clutches/W-04/"), "Piebald, possible L")

    def test_a_slug_cannot_be_called(self) -> None:
        answer = self.client.post("/clutches/W-02/6/calls/", {"stage": "shed", "verdict-fire": "sure"}, **HTMX)
        self.assertContains(answer, "A call needs an open egg", status_code=422)

    def test_a_long_note_is_kept_whole(self) -> None:
        note = "lobes float; " * 400
        self.client.post("/clutches/W-04/3/calls/", {"stage": "egg", "note": note, "verdict-mojave": "sure"}, **HTMX)
        self.assertEqual(self.egg(3).calls.get().note, note)

    def test_a_call_without_verdicts_is_refused(self) -> None:
        answer = self.client.post("/clutches/W-04/3/calls/", {"stage": "egg"}, **HTMX)
        self.assertContains(answer, "No call was made", status_code=422)


class Doors(SeasonCase):
    def test_strangers_are_sent_to_the_login_and_back(self) -> None:
        answer = Client().get("/clutches/W-04/3/")
        self.assertEqual((answer.status_code, answer["Location"]), (302, "/login/?next=%2Fclutches%2FW-04%2F3%2F"))

    def test_whoever_sends_a_form_after_the_login_has_ended_comes_back_to_its_page(self) -> None:
        page, form = "/in/withy-bed/clutches/W-04/record/?order=egg", "/in/withy-bed/clutches/W-04/3/state/"
        for came_from, following in (
            (f"http://testserver{page}", page),
            ("http://elsewhere.test/in/withy-bed/", "/in/withy-bed/"),
            ("http://testserver//elsewhere.test/in/x/", "/in/withy-bed/"),
            ("javascript:alert(1)", "/in/withy-bed/"),
            ("http://[", "/in/withy-bed/"),
            ("", "/in/withy-bed/"),
        ):
            answer = Client().post(form, {"state": "open"}, headers={"Referer": came_from})
            address = urlsplit(answer["Location"])
            self.assertEqual(
                (address.path, parse_qs(address.query)), ("/login/", {"next": [following], "ended": ["yes"]})
            )
        self.assertContains(Client().get(answer["Location"]), "Your login had ended before that was sent.")
        self.assertNotContains(Client().get("/login/"), "data-ended")

    def test_a_form_of_before_another_login_is_refused_in_words(self) -> None:
        before = self.egg(3).state
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.keeper)
        answer = strict.post("/in/withy-bed/clutches/W-04/3/state/", {"state": "dead"})
        self.assertContains(answer, "is older than your login", status_code=403)
        self.assertContains(answer, "Go back; what you typed still stands there.", status_code=403)
        self.assertEqual(self.egg(3).state, before)

    def test_an_expired_login_is_told_to_the_device(self) -> None:
        answer = Client().post("/clutches/W-04/3/looks/", {"trait": "x"}, **HTMX)
        self.assertEqual((answer.status_code, answer.content), (401, b"Please log in again."))

    def test_a_member_logs_in_and_out(self) -> None:
        client = Client()
        wrong = client.post("/login/", {"login": "keeper", "password": "no"})
        self.assertContains(wrong, "don’t belong together")
        self.assertRedirects(
            client.post("/login/", {"login": "keeper", "password": PASSWORD}), "/", target_status_code=302
        )
        self.assertEqual(client.get("/")["Location"], "/in/withy-bed/")
        client.post("/logout/")
        self.assertEqual(client.get("/").status_code, 302)

    def test_a_login_without_a_collection_says_so(self) -> None:
        self.keeper.memberships.all().delete()
        client = Client()
        client.force_login(self.keeper)
        for path in ("/", "/clutches/W-04/3/"):
            self.assertRedirects(client.get(path), "/collections/")
        self.assertContains(client.get("/collections/"), "no collection counts you among its members")

    def test_a_database_that_is_away_gives_a_calm_page(self) -> None:
        self.client.raise_request_exception = False
        with patch("eyot.season.views.season.clutches_of_season", side_effect=OperationalError("gone")):
            self.assertContains(self.client.get("/"), "The database does not answer just now", status_code=503)
        with patch("eyot.season.views.season.clutches_of_season", side_effect=ZeroDivisionError):
            self.assertContains(self.client.get("/"), "That is our fault, not yours", status_code=500)
        self.assertEqual(self.client.get("/").status_code, 200)

    def test_the_policy_allows_nothing_from_elsewhere(self) -> None:
        policy = self.client.get("/")["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertNotContains(self.client.get("/clutches/W-04/3/"), "style=")

    def setUp(self) -> None:
        super().setUp()
        cache.clear()  # what allauth counted of other tests' requests

    def guessed(self, name: str, password: str, client: Client | None = None, address: str = "10.9.9.9") -> int:
        given = {"login": name, "password": password}
        return (
            (client or Client()).post("/login/", given, headers={"X-Forwarded-For": f"1.2.3.4, {address}"}).status_code
        )

    @override_settings(BEHIND_PROXY=True, AXES_ENABLED=True)
    def test_whoever_guesses_at_one_account_is_held_up_from_wherever_it_comes(self) -> None:
        answers = [self.guessed("keeper", "wrong", address=f"10.9.9.{number}") for number in range(9)]
        self.assertEqual(answers[-2:], [429, 429])
        self.assertEqual(self.guessed("keeper", PASSWORD, address="10.8.8.8"), 429)
        self.assertEqual(self.guessed("helper", PASSWORD, address="10.8.8.8"), 302, "other accounts go on")

    @override_settings(AXES_ENABLED=True)
    def test_forty_names_from_one_address_are_held_up(self) -> None:
        answers = [self.guessed(f"name {number}", "wrong") for number in range(40)]
        self.assertEqual(answers[8:], [429] * 32)

    @override_settings(AXES_ENABLED=True)
    def test_no_stranger_holds_up_a_browser_that_is_known_not_even_from_behind_one_proxy(self) -> None:
        """All come from one address here, as behind a proxy that is not trusted."""
        known = Client()
        self.assertEqual(self.guessed("keeper", PASSWORD, known), 302)
        known.post("/logout/")
        for _ in range(12):
            last = self.guessed("keeper", "wrong")
        self.assertEqual(last, 429)
        self.assertEqual(self.guessed("keeper", PASSWORD, known), 302)
        known.post("/logout/")
        self.assertEqual(self.guessed("helper", PASSWORD, known), 429, "it is known of this account alone")
        forged = Client()
        forged.cookies[guessing.COOKIE] = known.cookies[guessing.COOKIE].value[:-2] + "xx"
        self.assertEqual(self.guessed("keeper", PASSWORD, forged), 429)

    def test_pauses_grow_with_what_was_wrong_in_a_day_up_to_a_quarter_of_an_hour(self) -> None:
        request = RequestFactory().post("/login/", {"login": "keeper"})
        minutes = []
        for wrong in (8, 8, 8, 8, 8, 200):
            AccessFailureLog.objects.bulk_create(
                [AccessFailureLog(username="keeper", attempt_time=timezone.now()) for _ in range(wrong)]
            )
            minutes.append(guessing.pause(request).total_seconds() / 60)
        self.assertEqual(minutes, [1, 2, 4, 8, 15, 15])

    def test_addresses_count_as_a_proxy_of_ours_says_and_nobody_elses(self) -> None:
        request = RequestFactory().get("/", headers={"X-Forwarded-For": "10.9.9.9"})
        self.assertEqual(client_address(request), "127.0.0.1", "nobody's word counts where there is no proxy")
        with override_settings(BEHIND_PROXY=True):
            self.assertEqual(client_address(request), "10.9.9.9")

    def test_ready_says_what_is_missing_and_needs_no_login(self) -> None:
        answer = Client().get("/ready")
        self.assertEqual((answer.status_code, answer.json()), (503, {"database": True, "store": True, "worker": False}))
        with connection.cursor() as cursor:
            cursor.execute("INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now() - interval '2 minutes')")
            self.assertFalse(Client().get("/ready").json()["worker"])
            cursor.execute("UPDATE procrastinate_workers SET last_heartbeat = now()")
        answer = Client().get("/ready")
        self.assertEqual((answer.status_code, set(answer.json().values())), (200, {True}))
        with patch("eyot.shared.views.storages", {}):
            answer = Client().get("/ready")
        self.assertEqual((answer.status_code, answer.json()["store"]), (503, False))

    def test_alive_needs_no_login(self) -> None:
        self.assertEqual(Client().get("/alive").content, b"alive")
