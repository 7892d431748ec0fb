"""Accounts: the second factor, logins elsewhere, mail, and what a stranger learns."""

from __future__ import annotations

import re
import time
from datetime import timedelta
from unittest.mock import patch

from allauth.mfa.models import Authenticator
from allauth.mfa.totp.internal.auth import format_hotp_value, generate_totp_secret, hotp_value
from allauth.usersessions.models import UserSession
from axes.models import AccessFailureLog
from django.contrib.auth import get_user_model
from django.contrib.sessions.models import Session
from django.core import mail
from django.core.cache import cache
from django.test import Client, override_settings
from django.utils import timezone

from eyot.accounts.actions import forget_old_logins
from eyot.accounts.logins import device
from tests.demo_rows import PASSWORD
from tests.web.season_data import SeasonCase

AGENT = "Mozilla/5.0 (Android 16; Mobile; rv:140.0) Gecko/140.0 Firefox/140.0"


PERIOD = 30
"""For so many seconds an authenticator app shows the same code."""


def code_for(secret: str, later: int = 0) -> str:
    """The six digits that an authenticator app shows now, or so many codes later."""
    return format_hotp_value(hotp_value(secret, int(time.time()) // PERIOD + later))


class AccountCase(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        cache.clear()
        self.user = get_user_model().objects.get(pk=self.keeper.pk)

    def logged_in(self) -> Client:
        """Somebody who went by the login."""
        client = Client(headers={"User-Agent": AGENT})
        given = {"login": "keeper", "password": PASSWORD}
        self.assertEqual(client.post("/login/", given).status_code, 302)
        return client


class SecondFactor(AccountCase):
    def secret_of(self, page: bytes) -> str:
        found = re.search(r"<code class=\"print\">(\w+)</code>", page.decode())
        assert found
        return found[1]

    def added(self) -> tuple[Client, str, list[str]]:
        """Somebody with an authenticator app; its secret, and the recovery codes."""
        client = self.logged_in()
        client.post("/account/again/", {"password": PASSWORD})
        wrong = client.post("/account/app/", {"code": "000000"})
        self.assertContains(wrong, "not the code that counts now")
        codes = client.post("/account/app/", {"code": code_for(self.secret_of(wrong.content))}, follow=True)
        return client, self.secret_of(wrong.content), re.findall(r"<li><code>(\w+)</code>", codes.content.decode())

    def test_after_the_password_the_app_is_asked_for_and_nothing_opens_before(self) -> None:
        _, secret, codes = self.added()
        self.assertEqual(len(codes), 10)
        cache.clear()  # the code that was just used counts once; the next login comes later
        client = Client()
        answer = client.post("/login/", {"login": "keeper", "password": PASSWORD})
        self.assertEqual(answer["Location"], "/login/second/")
        self.assertEqual(client.get("/in/withy-bed/").status_code, 302)
        self.assertContains(client.post("/login/second/", {"code": "000000"}), "not the code that counts now")
        self.assertEqual(client.get("/in/withy-bed/").status_code, 302)
        self.assertEqual(client.post("/login/second/", {"code": code_for(secret)}).status_code, 302)
        self.assertEqual(client.get("/in/withy-bed/").status_code, 200)

    def test_the_code_before_and_the_next_are_taken_and_none_further_off(self) -> None:
        secret, now = self.added()[1], int(time.time())
        for later, expected in ((-2, 200), (-1, 302), (1, 302), (2, 200)):
            cache.clear()
            client = Client()
            client.post("/login/", {"login": "keeper", "password": PASSWORD})
            with patch("time.time", return_value=now):
                answer = client.post("/login/second/", {"code": code_for(secret, later)})
            self.assertEqual(answer.status_code, expected, later)

    def test_a_recovery_code_opens_once(self) -> None:
        _, _, codes = self.added()
        for expected in (302, 200):
            client = Client()
            client.post("/login/", {"login": "keeper", "password": PASSWORD})
            self.assertEqual(client.post("/login/second/", {"code": codes[0]}).status_code, expected)

    def test_guessing_the_code_is_slowed(self) -> None:
        self.added()
        cache.clear()
        client = Client()
        client.post("/login/", {"login": "keeper", "password": PASSWORD})
        for _ in range(6):
            answer = client.post("/login/second/", {"code": "000000"})
        self.assertContains(answer, "Too many")

    def test_it_is_taken_off_again(self) -> None:
        client, _, _ = self.added()
        self.assertContains(client.get("/account/"), "is asked for at every login")
        client.post("/account/app/off/")
        self.assertFalse(Authenticator.objects.filter(user=self.user).exists())
        self.logged_in()

    def test_whoever_did_not_just_log_in_is_asked_for_the_password_once_more(self) -> None:
        client = Client()
        client.force_login(self.user)
        answer = client.get("/account/app/")
        self.assertIn("/account/again/", answer["Location"])
        self.assertContains(client.post(answer["Location"], {"password": "wrong"}), "That is not your password")
        self.assertEqual(client.post(answer["Location"], {"password": PASSWORD})["Location"], "/account/app/")

    def test_a_secret_is_nobody_elses(self) -> None:
        one = Authenticator.objects.create(user=self.user, type="webauthn", data={"name": "a key", "credential": {}})
        helper = Client()
        helper.force_login(get_user_model().objects.get(username="helper"))
        self.assertNotEqual(helper.post(f"/account/passkeys/{one.pk}/remove/").status_code, 200)
        self.assertTrue(Authenticator.objects.filter(pk=one.pk).exists())
        self.assertEqual(len(generate_totp_secret()), 32)

    def test_a_passkey_needs_a_name(self) -> None:
        with override_settings(ALLOWED_HOSTS=["192.168.7.20", "localhost"]):
            by_number = self.client.get("/account/", headers={"Host": "192.168.7.20:8422"})
            by_name = self.client.get("/account/", headers={"Host": "localhost:8421"})
        self.assertContains(by_number, "It belongs to a name")
        self.assertContains(by_name, "/account/passkeys/add/")


class Logins(AccountCase):
    def test_each_is_listed_and_ended_from_another(self) -> None:
        phone, desk = self.logged_in(), self.logged_in()
        page = desk.get("/account/")
        self.assertContains(page, "Firefox on Android</b>", count=2)
        other = UserSession.objects.filter(user=self.user).exclude(session_key=desk.session.session_key).get()
        helper = Client()
        helper.force_login(get_user_model().objects.get(username="helper"))
        self.assertContains(helper.post(f"/account/logins/{other.pk}/end/"), "ended already", status_code=422)
        self.assertEqual(phone.get("/in/withy-bed/").status_code, 200)
        desk.post(f"/account/logins/{other.pk}/end/")
        self.assertEqual(phone.get("/in/withy-bed/").status_code, 302)
        self.assertEqual(desk.get("/in/withy-bed/").status_code, 200)

    def test_after_another_password_only_this_one_is_left(self) -> None:
        phone, desk = self.logged_in(), self.logged_in()
        desk.post("/account/", {"old": PASSWORD, "new": "marsh-mallow-tea"})
        self.assertEqual(phone.get("/in/withy-bed/").status_code, 302)
        self.assertContains(desk.get("/account/"), "this one")
        self.assertEqual(UserSession.objects.filter(user=self.user).count(), 1)

    def test_what_a_browser_does_not_say_is_not_guessed(self) -> None:
        self.assertEqual(device("curl/8"), "a browser that does not say what it is")
        self.assertEqual(device("Mozilla/5.0 (Windows NT 10.0) Chrome/150 Safari/537"), "Chrome on Windows")


class ByMail(AccountCase):
    def test_without_a_mail_server_it_says_who_helps(self) -> None:
        self.assertContains(Client().get("/login/forgotten/"), "sends no mail")
        self.assertNotContains(self.client.get("/account/"), "Mail address")
        Client().post("/login/forgotten/", {"name": "keeper"})
        self.assertEqual(mail.outbox, [])

    @override_settings(MAIL_IS_SENT=True)
    def test_a_link_goes_to_the_kept_address_and_sets_a_new_password_once(self) -> None:
        page = self.client.post("/account/mail/", {"mail": "no address", "password": PASSWORD})
        self.assertContains(page, "is no mail address", status_code=422)
        page = self.client.post("/account/mail/", {"mail": "keeper@withy.example", "password": "wrong"})
        self.assertContains(page, "not your password", status_code=422)
        self.client.post("/account/mail/", {"mail": "Keeper@withy.example", "password": PASSWORD})
        answers = [Client().post("/login/forgotten/", {"name": name}) for name in ("KEEPER", "nobody at all")]
        self.assertEqual(*(one.content.decode().partition('<section class="narrow">')[2] for one in answers))
        [sent] = mail.outbox
        self.assertEqual(sent.to, ["keeper@withy.example"])
        [link] = re.findall(r"http://testserver(/new-password/\S+)", sent.body)
        self.assertEqual(Client().post(link, {"new": "marsh-mallow-tea"}).status_code, 302)
        self.assertEqual(Client().post(link, {"new": "another-long-one"}).status_code, 404)
        self.user.refresh_from_db()
        self.assertTrue(self.user.check_password("marsh-mallow-tea"))

    @override_settings(MAIL_IS_SENT=True)
    def test_nobody_floods_a_mailbox(self) -> None:
        get_user_model().objects.filter(pk=self.user.pk).update(email="keeper@withy.example")
        for _ in range(12):
            answer = Client().post("/login/forgotten/", {"name": "keeper"})
        self.assertContains(answer, "often enough for now", status_code=422)
        self.assertLess(len(mail.outbox), 8)


class Strangers(AccountCase):
    def test_nobody_signs_up_by_himself(self) -> None:
        for path in ("/account/signup/", "/signup/", "/accounts/signup/"):
            self.assertIn(Client().post(path, {"username": "x", "password1": "y"}).status_code, (302, 404))
        self.assertFalse(get_user_model().objects.filter(username="x").exists())

    def test_a_wrong_name_and_a_wrong_password_read_alike(self) -> None:
        pages = [Client().post("/login/", {"login": name, "password": "no"}) for name in ("keeper", "nobody")]
        for page in pages:
            self.assertContains(page, "don’t belong together")

    def test_old_logins_and_tries_are_forgotten_and_those_that_last_are_not(self) -> None:
        now = timezone.now()
        self.client.get("/account/")
        lasting = Session.objects.get(session_key=self.client.session.session_key)
        Session.objects.create(session_key="ended", session_data="", expire_date=now - timedelta(hours=1))
        for name, days in (("old", 31), ("new", 29)):
            row = AccessFailureLog.objects.create(username=name)
            AccessFailureLog.objects.filter(pk=row.pk).update(attempt_time=now - timedelta(days=days))
        forget_old_logins(now)
        self.assertEqual(list(Session.objects.all()), [lasting])
        self.assertEqual(list(AccessFailureLog.objects.values_list("username", flat=True)), ["new"])
