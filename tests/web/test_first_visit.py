"""The first visit of a server without any account: claimed once, against the code that its start printed."""

from __future__ import annotations

import tempfile
from pathlib import Path
from unittest.mock import patch

from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.http import HttpResponse
from django.test import SimpleTestCase, TestCase, override_settings

from eyot.collection.models import Collection, Role
from eyot.demo.management.commands.prepare import collect, way_in

CODE = "abcd-efgh-jkmn-pqrs"
GIVEN = {"code": CODE, "name": "rushlight", "password": "marsh-mallow-tea", "collection": "Own Reach"}
GIVEN |= {"day_form": "day", "grade": "C"}


@override_settings(CLAIM_CODE=CODE)
class FirstVisit(TestCase):
    def send(self, **other: str) -> HttpResponse:
        return self.client.post("/begin/", GIVEN | other)  # type: ignore[return-value]

    def test_whoever_comes_first_is_led_to_it_and_the_start_tells_the_code(self) -> None:
        self.assertRedirects(self.client.get("/clutches/W-04/"), "/begin/")
        self.assertContains(self.client.get("/begin/"), "This is its first visit")
        self.assertEqual(way_in("any"), f"(first visit: code {CODE})")

    def test_the_code_makes_the_owner_and_an_empty_collection(self) -> None:
        answer = self.send(code=" ABCD EFGH-jkmnpqrs ")
        self.assertRedirects(answer, "/in/own-reach/")
        collection = Collection.objects.get()
        self.assertEqual(
            [(one.user.username, one.role) for one in collection.memberships.all()], [("rushlight", Role.OWNER)]
        )
        self.assertContains(self.client.get("/in/own-reach/"), "Paste a list")
        self.assertEqual(way_in("any"), "")

    def test_it_is_used_up_by_that(self) -> None:
        self.send()
        self.client.logout()
        self.assertContains(self.client.get("/begin/"), "There is an owner already", status_code=410)
        self.assertContains(self.send(name="second"), "This code has been used", status_code=410)
        self.assertEqual(get_user_model().objects.count(), 1)
        self.assertRedirects(self.client.get("/"), "/login/?next=%2F")

    def test_what_can_not_be_is_refused_and_what_was_typed_stays(self) -> None:
        for other, words in (
            ({"code": "abcd-efgh-jkmn-pqrt"}, "not the code"),
            ({"code": ""}, "not the code"),
            ({"name": ""}, "needs a name to log in with"),
            ({"password": "short"}, "too short"),
            ({"collection": ""}, "A collection needs a name"),
        ):
            answer = self.send(**other)
            self.assertContains(answer, words, status_code=422)
        self.assertContains(self.send(code="wrong"), 'value="rushlight"', status_code=422)
        self.assertNotContains(self.send(code="wrong"), "marsh-mallow", status_code=422)
        self.assertFalse(get_user_model().objects.exists() or Collection.objects.exists())

    @override_settings(CLAIM_CODE="")
    def test_without_a_code_nobody_can(self) -> None:
        self.assertContains(self.send(code=""), "not the code", status_code=422)


class StaticFiles(SimpleTestCase):
    def test_they_are_collected_once_and_again_when_one_has_changed(self) -> None:
        with tempfile.TemporaryDirectory() as kept, tempfile.TemporaryDirectory() as source:
            style = Path(source) / "own.css"
            style.write_text("a { color: red }")
            with override_settings(STATIC_ROOT=Path(kept), STATICFILES_DIRS=[source]):
                for text, times in (("", 1), ("", 0), ("a { color: blue; }", 1)):
                    if text:
                        style.write_text(text)
                    with patch("eyot.demo.management.commands.prepare.call_command", wraps=call_command) as called:
                        collect()
                    self.assertEqual(called.call_count, times, text)
            self.assertTrue(any(path.name.startswith("own.") for path in Path(kept).iterdir()))
