"""The demo collection without its photos, for tests; and a second collection that must stay out of reach."""

from __future__ import annotations

from datetime import date
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import Client, TestCase

from eyot.collection.actions import found_collection
from eyot.collection.models import Animal, Collection
from eyot.season.models import Clutch, ClutchSire, Egg
from eyot.season.queries import clutch_of, egg_of
from tests.demo_rows import PASSWORD, demo_collection

TODAY = date(2026, 6, 12)


class MembersClient(Client):
    """A browser that stands in Withy Bed: addresses without a collection are those of it, as a page there would write them."""

    prefix = "/in/withy-bed"
    OUTSIDE = (
        "/in/",
        "/login/",
        "/logout/",
        "/alive",
        "/eye/",
        "/offer/",
        "/join/",
        "/collections/",
        "/account/",
        "/new-password/",
        "/static/",
    )

    def generic(self, method: str, path: str, *args: Any, **more: Any) -> Any:
        """Asks in the collection; where the answer leads on within it, the prefix is left away again."""
        inside = not path.startswith(self.OUTSIDE)
        answer = super().generic(method, self.prefix + path if inside else path, *args, **more)
        if answer.streaming and not answer.is_async:
            answer.streaming_content = [b"".join(answer)]  # read to its end, which closes its file
        if answer.get("Location", "").startswith(self.prefix + "/"):
            answer["Location"] = answer["Location"].removeprefix(self.prefix)
        return answer


class SeasonCase(TestCase):
    """Withy Bed as it stands today, with no change in its record, the reader logged in as its keeper, and a neighbour's clutch X-01."""

    client_class = MembersClient
    client: MembersClient
    collection: Collection
    neighbours: Clutch
    login: str
    """The keeper's session, begun once for the class."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.collection = demo_collection()
        cls.collection.changes.all().delete()
        users: Any = get_user_model().objects
        cls.keeper, cls.helper = users.get(username="keeper"), users.get(username="helper")
        other, cls.stranger = found_collection("stranger", PASSWORD, "Far Bank")
        dam, sire = (Animal.objects.create(collection=other, name=name) for name in ("Rudd", "Bream"))
        cls.neighbours = Clutch.objects.create(collection=other, code="X-01", dam=dam, laid_on=TODAY)
        ClutchSire.objects.create(clutch=cls.neighbours, sire=sire)
        Egg.objects.create(clutch=cls.neighbours, number=1, state=Egg.State.OPEN)
        browser = cls.client_class()
        browser.force_login(cls.keeper)
        cls.login = browser.cookies[settings.SESSION_COOKIE_NAME].value

    def setUp(self) -> None:
        self.client.cookies[settings.SESSION_COOKIE_NAME] = self.login

    def log_in_the_neighbour(self) -> None:
        """Whose collection is Far Bank; where addresses lead from now on."""
        self.client.force_login(self.stranger)
        self.client.prefix = "/in/far-bank"

    def egg(self, number: int, code: str = "W-04") -> Egg:
        """One egg of a clutch of Withy Bed."""
        return egg_of(self.clutch(code), number)

    def clutch(self, code: str = "W-04") -> Clutch:
        """One clutch of Withy Bed."""
        return clutch_of(self.collection, code)
