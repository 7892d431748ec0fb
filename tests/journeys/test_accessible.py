"""Every main view, at the desk by day and on the phone by lamp, before the accessibility checker; none is wider than the screen."""

from __future__ import annotations

from eyot.demo.scenario import BOUGHT
from eyot.season.models import Egg
from tests.chromium import DESK, PHONE
from tests.journeys.browser import NARROWEST, WITHOUT_FRAMES, Journey, offences

VIEWS = (
    *("/", "/animals/", "/clutches/W-04/", "/clutches/W-07/", "/clutches/W-02/1/", "/nowhere/"),
    *("/pairings/?dam=Coot&sire=Dabble&wish=woma", "/animals/new/", "/animals/import/", "/clutches/W-04/record/"),
    *("/clutches/W-02/1/record/", "/clutches/W-04/cutting/", "/clutches/W-04/sheet/"),
    *("/schools/", "/relook/", "/history/", "/clutches/W-02/2/why/vanilla/", "/clutches/V-06/closing/"),
    *("/scores/", "/clutches/W-04/1/eyes/", "/clutches/W-04/1/proof/"),
    *("/reference/?q=bumbelbee", "/reference/genes/mojave/", "/reference/combinations/mojave.leopard/"),
    *("/reference/notes/L13/", "/reference/opinions/", "/scores/tuning/", "/hets/", "/hets/marks/piebald/"),
    *("/laboratory/", "/explain/?dam=Marram&sire=Fathom", "/proving/", "/keeping/", "/phone/"),
    *("/members/", "/collections/", "/animals/paste/", "/pairings/running/"),
    *("/inbox/", "/clutches/W-02/1/series/", "/clutches/W-02/2/side-by-side/"),
)


class Checked(Journey):
    flags = (WITHOUT_FRAMES,)

    def test_main_views(self) -> None:
        page = self.member(**DESK)
        marram = self.collection.animals.get(name="Marram").pk
        trait = self.collection.new_traits.get().pk
        table = Egg.objects.get(kept_as__name=BOUGHT.name).clutch.code
        laid = self.collection.clutches.get(code="W-02").laid_on
        assert laid is not None
        for view in (
            *VIEWS,
            f"/hets/{marram}/piebald/",
            f"/proving/{trait}/",
            f"/animals/{marram}/",
            f"/clutches/{table}/1/",
            f"/season/{laid.year}/report/",
        ):
            with self.subTest(view=view):
                self.visit(page, view)
                self.assertEqual(offences(page, (DESK, "light"), (PHONE, "dark")), [])

    def test_the_login(self) -> None:
        page = self.context().new_page()
        page.goto(self.live_server_url)
        self.assertEqual(offences(page, (DESK, "light")), [])


class Light(Journey):
    def test_lamp_and_paper_are_chosen_and_kept(self) -> None:
        page = self.member()
        self.visit(page, "/")
        page.get_by_role("button", name="Lamp").click()
        dark = page.evaluate("getComputedStyle(document.documentElement).backgroundColor")
        page.reload()
        self.assertEqual(page.evaluate("getComputedStyle(document.documentElement).backgroundColor"), dark)
        page.get_by_role("button", name="Paper").click()
        self.assertNotEqual(page.evaluate("getComputedStyle(document.documentElement).backgroundColor"), dark)


UNDER_A_BAR = """() => {
    if (document.activeElement === document.body) return ""; // behind the last one
    const on = document.activeElement.getBoundingClientRect();
    const bars = [...document.querySelectorAll(".sections, .standing")].filter((bar) => !bar.contains(document.activeElement));
    const isOver = (bar) => on.bottom > bar.top + 1 && on.top < bar.bottom - 1;
    return bars.some((bar) => isOver(bar.getBoundingClientRect())) ? document.activeElement.outerHTML.slice(0, 120) : "";
}"""


class ByKeys(Journey):
    def test_what_has_the_focus_lies_under_no_bar(self) -> None:
        """WCAG 2.4.11, at a desk at four times the size, where the bench has the phone's bars at its lower edge."""
        page = self.member(viewport={"width": NARROWEST, "height": 600})
        self.visit(page, "/clutches/W-02/2/")
        for part, first in (("All looks", ".level"), ("Call", "#call summary")):
            page.get_by_role("button", name=part, exact=True).click()
            page.locator(first).first.focus()
            covered, passed = [], set()
            for _ in range(25):
                page.keyboard.press("Tab")
                passed.add(page.evaluate("document.activeElement.outerHTML"))
                covered.append(page.evaluate(UNDER_A_BAR))
            self.assertGreater(len(passed), 10, part)
            self.assertEqual([one for one in covered if one], [], part)
