"""A goal typed, a plan chosen, a clutch hatched, a holdback proposed and taken, the plan moved on."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

from django.contrib.auth import get_user_model
from django.utils import timezone
from playwright.sync_api import expect

from eyot.bench.actions import make_call
from eyot.bench.siblings import judged
from eyot.projects.models import Project
from eyot.season.models import Clutch, ClutchSire, Egg
from eyot.season.queries import clutch_of, egg_of
from tests.chromium import DESK, PHONE
from tests.journeys.browser import Journey, offences


class OverGenerations(Journey):
    def test_from_a_goal_to_a_plan_that_has_moved_on(self) -> None:
        page = self.member(**DESK)
        self.visit(page, "/projects/")
        page.get_by_label("What it is to be, as breeders write it").fill("leopard mojave piebald")
        page.get_by_role("button", name="Find plans").click()
        expect(page.get_by_role("heading", name="Plans for leopard mojave piebald")).to_be_visible()
        self.assertEqual(offences(page, (PHONE, "dark"), (DESK, "light")), [])
        page.get_by_role("button", name="Begin with this plan").first.click()
        expect(page.get_by_role("heading", name="leopard mojave piebald")).to_be_visible()
        self.assertEqual(offences(page, (PHONE, "light"), (DESK, "dark")), [])
        project = Project.objects.get(name="leopard mojave piebald")
        first = project.plan[0]
        self.hatched(project, first)
        self.visit(page, "/clutches/Y-01/closing/")
        row = page.get_by_role("listitem").filter(has_text="leopard mojave piebald").first
        expect(row).to_contain_text("brings")
        row.get_by_role("button", name="Hold").click()
        expect(page.get_by_text("held back:")).to_be_visible()
        self.assertEqual(project.held.get().step, first["keep"]["id"])

    def hatched(self, project: Project, step: dict[str, Any]) -> None:
        """The clutch of the plan's first step, called."""
        keeper: Any = get_user_model().objects.get(username="keeper")
        own = {row.name: row.animal for row in project.in_plan.all()}
        today = timezone.localdate()
        clutch = Clutch.objects.create(
            collection=self.collection, code="Y-01", dam=own[step["dam"]], laid_on=today - timedelta(days=80)
        )
        ClutchSire.objects.create(clutch=clutch, sire=own[step["sire"]])
        sex = step["keep"].get("sex", "female")
        Egg.objects.create(
            clutch=clutch, number=1, state=Egg.State.OUT, out_on=today - timedelta(days=20), stage="shed", sex=sex
        )
        clutch = clutch_of(self.collection, "Y-01")
        said = {one["gene"]: ("sure", one["copies"]) for one in step["keep"]["genes"]}
        shown = {gene: call for gene, call in said.items() if not (gene == "piebald" and call[1] == 1)}
        make_call(judged(clutch), egg_of(clutch, 1), keeper, shown, "shed", "", uuid4(), timezone.now())
