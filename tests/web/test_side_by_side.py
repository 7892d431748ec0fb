"""Side by side: what each pane shows at each place, what is gone, looks answered there, and the pictures of places."""

from __future__ import annotations

import io
import json
import re
from datetime import timedelta
from uuid import uuid4

from django.utils import timezone
from PIL import Image

from eyot_core.body_places import BY_ID, PLACES

from eyot.animals.individuals import individual_of
from eyot.bench.models import Look
from eyot.bench.siblings import judged_one
from eyot.collection.member_actions import new_collection
from eyot.collection.models import Collection, Membership
from eyot.lineup.panes import Pane, choices_for, panes_of, parents_of
from eyot.photos import files
from eyot.photos.actions import take_away
from eyot.photos.models import Photo
from eyot.photos.places import best_shot, nearest_in_age
from eyot.reference.own import pin_photo
from eyot.season.models import Egg
from eyot.season.queries import clutch_of, egg_of
from tests.jobs import do_jobs
from tests.web.test_strips import StripCase

PATH = "/clutches/W-02/2/side-by-side/"


class SideCase(StripCase):
    def egg(self, number: int = 2) -> Egg:
        return egg_of(clutch_of(self.collection, "W-02"), number)

    def panes(self, *specs: str, stage: str = "shed") -> list[Pane]:
        return panes_of(self.collection, specs, self.egg(), stage)


class Panes(SideCase):
    def test_a_photo_with_a_line_shows_each_place_through_it(self) -> None:
        photo = self.photo(2, drawn=True)
        (pane,) = self.panes("own")
        self.assertEqual(pane.title, "W-02, egg 2")
        shot = pane.at["flank_middle"]
        self.assertEqual(
            (shot.src, shot.base, shot.by_hand),
            (f"/photos/{photo.pk}/at/flank_middle-{photo.strip_done}.jpg", 2.0, False),
        )
        self.assertIn("light corrected", shot.words)
        whole = pane.at["whole"]
        self.assertEqual((whole.base, whole.is_whole, whole.by_hand), (1.0, True, False))
        self.assertEqual(set(pane.at), {place.id for place in PLACES})
        self.assertEqual(json.loads(pane.shots)["crown"]["base"], 2.0)

    def test_one_without_a_line_is_moved_by_hand(self) -> None:
        photo = self.photo(2)
        (pane,) = self.panes("own")
        shot = pane.at["eye"]
        self.assertEqual((shot.src, shot.is_whole, shot.by_hand), (f"/photos/{photo.pk}/{photo.full}.jpg", True, True))

    def test_a_belly_is_sought_in_the_photo_of_the_belly(self) -> None:
        back = self.photo(2, drawn=True)
        self.assertTrue(best_shot([back], BY_ID["belly"]).by_hand)
        belly = self.photo(2, kind="belly", drawn=True)
        self.assertIn(str(belly.pk), best_shot([back, belly], BY_ID["belly"]).src)
        self.assertIn(str(back.pk), best_shot([back, belly], BY_ID["flank_middle"]).src)
        self.assertIn(str(belly.pk), best_shot([back, belly], BY_ID["belly_edge"]).src)

    def test_an_animal_is_shown_at_the_stage_or_the_nearest(self) -> None:
        photo = self.photo(2, drawn=True)
        Photo.objects.filter(pk=photo.pk).update(stage="wet")
        self.assertEqual([one.pk for one in nearest_in_age(list(self.egg().photos.all()), "adult")], [photo.pk])
        (pane,) = self.panes(f"e{self.egg().pk}.shed")
        self.assertIn("out, wet", pane.at["crown"].words)

    def test_a_drawing_is_one_of_any_combination(self) -> None:
        (pane,) = self.panes("dfire.vanilla")
        self.assertEqual(pane.title, "Fire Vanilla “vanilla cream”")
        self.assertEqual(pane.at["belly"].src.split("&")[0], "/drawings/at/belly/fire.vanilla.svg?stage=shed")
        picture = self.client.get(pane.at["belly"].src)
        self.assertContains(picture, "<svg")
        self.assertEqual(self.client.get("/drawings/at/elbow/fire.svg").status_code, 404)

    def test_what_is_not_here_is_told_in_its_pane_and_the_others_stand(self) -> None:
        photo = self.photo(2, drawn=True)
        pinned = self.photo(1, drawn=True)
        take_away(pinned, self.keeper, timezone.now())
        specs = ("own", f"p{pinned.pk}", "dmojave.lesser.butter", "e0")
        page = self.client.get(PATH, {"pane": specs, "stage": "shed"})
        self.assertContains(page, "is not here any more", count=2)
        self.assertContains(page, "No animal can have these genes")
        self.assertContains(page, f"/photos/{photo.pk}/at/")
        for nonsense in ("p", "pnone", "e", "ex.y", "z1", "e99999999999"):
            self.assertTrue(self.panes(nonsense)[0].gone, nonsense)

    def test_another_collections_photo_is_not_here(self) -> None:
        photo = self.photo(2, drawn=True)
        neighbour = self.neighbour()
        self.assertTrue(panes_of(neighbour, [f"p{photo.pk}"], None, "shed")[0].gone)
        self.assertTrue(panes_of(neighbour, [f"e{self.egg().pk}"], None, "shed")[0].gone)

    def neighbour(self) -> Collection:
        return new_collection(self.keeper, "Other Bed")

    def test_what_can_be_chosen_are_siblings_parents_pins_and_candidates(self) -> None:
        self.photo(2, drawn=True)
        sibling = self.photo(1, drawn=True)
        parent = individual_of(self.collection.animals.get(name="Sallow"))
        pin_photo(self.collection, self.keeper, sibling, "fire.enchi", "tested")
        Photo.objects.filter(pk=self.photo(1).pk).update(egg=parent, stage="adult")
        choices = choices_for(self.collection, self.egg(), "shed", judged_one(clutch_of(self.collection, "W-02")))
        named = {choice.heading: choice.options for choice in choices}
        self.assertEqual(named["siblings"], [(f"e{sibling.egg_id}", "W-02, egg 1")])
        self.assertEqual(named["parents"], [(f"e{parent.pk}", "Sallow")])
        self.assertEqual(named["pinned references"][0][0], f"p{sibling.pk}")
        self.assertTrue(all(spec.startswith("d") for spec, _ in named["drawings"]))
        page = self.client.get(PATH, {"with": "parents"})
        self.assertContains(page, 'class="side-pane"', count=2)
        self.assertContains(page, 'aria-label="Sallow"')


class Page(SideCase):
    def test_a_look_opens_at_its_place_and_a_sibling_keeps_panes(self) -> None:
        page = self.client.get(PATH, {"look": "belly_edge", "stage": "shed", "pane": ["own", "dfire"]})
        self.assertContains(page, 'data-place="belly_edge"')
        self.assertContains(page, "/clutches/W-02/3/side-by-side/?pane=own&amp;pane=dfire&amp;stage=shed")
        self.assertContains(page, 'data-at-place="belly_edge"', count=1)
        self.assertContains(self.client.get(PATH, {"look": "no_such"}), 'data-place="whole"')

    def test_it_comes_as_it_stays(self) -> None:
        """Looks of other places, words under the panes and tools of panes are not first shown and then taken away by the script."""
        self.photo(2)
        page = self.client.get(PATH, {"look": "belly_edge", "stage": "shed", "pane": ["own", "dfire"]})
        rows = re.findall(r'<div class="side-look([^"]*)" data-at-place="(\w+)"( hidden)?>', page.content.decode())
        self.assertGreater(len(rows), 10)
        self.assertEqual([row for row in rows if not row[2]], [(" first", "belly_edge", "")])
        self.assertContains(page, 'none-here" hidden')
        self.assertContains(page, ": no line here, move it by hand</span>", count=1)
        self.assertContains(page, 'class="pane-tools" hidden', count=1)
        for path, shown in ((f"{PATH}?place=whole", False), (f"{PATH}?place=vent", True)):
            text = self.client.get(path).content.decode()
            self.assertEqual('none-here">' in text, shown, path)

    def test_genes_are_typed_for_a_drawing_and_what_names_none_is_told(self) -> None:
        self.assertContains(
            self.client.get(PATH, {"pane": "own", "genes": "fire enchi"}), "/drawings/at/crown/fire.enchi.svg"
        )
        page = self.client.get(PATH, {"pane": "own", "genes": "zorblat"})
        self.assertContains(page, "“zorblat” names no genes")

    def test_parents_of_whom_there_is_no_photo_are_named(self) -> None:
        page = self.client.get(PATH, {"with": "parents"})
        for parent in parents_of(self.egg()):
            self.assertContains(page, f'<a href="/in/withy-bed/animals/{parent.pk}/">{parent.name}</a>')
        self.assertContains(page, "No photo yet of")
        dam, *sires = parents_of(self.egg())
        with_photo = self.photo(2)
        Photo.objects.filter(pk=with_photo.pk).update(egg=individual_of(dam))
        page = self.client.get(PATH, {"with": "parents"})
        self.assertContains(page, 'class="side-pane"', count=2)
        self.assertNotContains(page, f">{dam.name}</a>:")
        self.assertContains(page, f">{sires[-1].name}</a>: photos of parents")
        self.assertNotContains(self.client.get(PATH), "No photo yet of")
        stranger = individual_of(self.collection.animals.create(name="Teal Rail"))
        page = self.client.get(f"/clutches/{stranger.clutch.code}/1/side-by-side/", {"with": "parents"})
        self.assertContains(page, "No parents are entered for this animal.")

    def test_drawings_alone_lie_side_by_side_too(self) -> None:
        page = self.client.get("/side-by-side/", {"pane": ["dfire", "dvanilla"], "place": "crown"})
        self.assertContains(page, 'class="side-pane"', count=2)
        self.assertNotContains(page, "data-bench")
        self.assertContains(self.client.get("/side-by-side/"), "Nothing is laid side by side yet")

    def test_a_look_is_answered_there_and_moves_the_genes(self) -> None:
        sent = {"trait": "belly_edge", "level": "jagged", "stage": "shed", "confidence": "sure", "key": str(uuid4())}
        before = self.client.get(PATH).content
        answer = self.client.post(f"{PATH}looks/", sent, headers={"HX-Request": "true"})
        self.assertContains(answer, 'aria-pressed="true" title="jagged')
        self.assertContains(answer, "Fire")
        self.assertNotIn(answer.content, before)
        self.assertEqual(Look.objects.filter(egg=self.egg(), trait="belly_edge").count(), 1)
        late = self.client.post(f"{PATH}looks/", sent, headers={"X-Outbox": "1"})
        self.assertEqual((late.status_code, Look.objects.filter(egg=self.egg(), trait="belly_edge").count()), (204, 1))
        wrong = self.client.post(
            f"{PATH}looks/", sent | {"level": "odd", "key": str(uuid4())}, headers={"HX-Request": "true"}
        )
        self.assertContains(wrong, "is not an answer", status_code=422)
        plain = self.client.post(f"{PATH}looks/", sent | {"key": str(uuid4())})
        self.assertEqual(plain["Location"], PATH)

    def test_who_looks_blind_sees_no_candidate_and_no_chance_here_either(self) -> None:
        Membership.objects.filter(user=self.keeper, collection=self.collection).update(blind_first=True)
        page = self.client.get(PATH)
        self.assertNotContains(page, "side-standing")
        self.assertNotContains(page, "/drawings/at/")
        self.assertNotContains(page, 'optgroup label="drawings"')

    def test_an_egg_that_is_shut_has_nothing_to_answer(self) -> None:
        page = self.client.get("/clutches/W-04/7/side-by-side/")
        self.assertContains(page, "No photo of this animal yet.")
        self.assertNotContains(page, 'id="judgement"')

    def test_the_bench_shows_where_the_asked_look_is_seen(self) -> None:
        self.assertNotContains(self.client.get("/clutches/W-02/2/"), "asked-at")
        self.photo(2, drawn=True)
        self.photo(2, kind="belly", drawn=True)
        page = self.client.get("/clutches/W-02/2/?stage=shed")
        self.assertContains(page, 'class="asked-at"')
        self.assertContains(page, "/side-by-side/?look=")

    def test_look_alikes_show_the_places_that_part_them(self) -> None:
        page = self.client.get("/reference/look-alikes/mojave~leopard/")
        self.assertContains(page, "Where they part")
        self.assertContains(page, "/drawings/at/flank_middle/mojave.svg")
        self.assertContains(page, "/side-by-side/?pane=dmojave&amp;pane=dleopard&amp;place=flank_middle")

    def test_a_line_up_is_laid_side_by_side(self) -> None:
        self.photo(1, drawn=True)
        self.photo(2, drawn=True)
        page = self.client.get("/clutches/W-02/line-up/")
        specs = "&amp;".join(f"pane=e{self.egg(number).pk}.shed" for number in (1, 2))
        either = "&amp;".join(f"pane=e{self.egg(number).pk}.shed" for number in (2, 1))
        self.assertIn(True, [words in page.content.decode() for words in (specs, either)])


class PicturesOfPlaces(SideCase):
    def shown(self, photo: Photo, place: str) -> Image.Image:
        answer = self.client.get(f"/photos/{photo.pk}/at/{place}-{photo.strip_done}.jpg")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/jpeg"))
        return Image.open(io.BytesIO(b"".join(answer.streaming_content)))  # type: ignore[attr-defined]

    def test_they_are_made_with_the_strip_and_again_with_the_next(self) -> None:
        photo = self.photo(2, drawn=True)
        made = [name for name in files.files_in(photo.folder) if name.startswith("at_")]
        self.assertEqual(len(made), len(PLACES) - 1)
        picture = self.shown(photo, "neck")
        self.assertAlmostEqual(picture.height / picture.width, 0.75, delta=0.01)
        first = photo.strip_done
        for _ in range(2):
            self.post(photo, "line", points=self.points(2))
            do_jobs()
            photo.refresh_from_db()
        names = files.files_in(photo.folder)
        self.assertIn(f"at_neck-{photo.strip_done}.jpg", names)
        self.assertNotIn(f"at_neck-{first}.jpg", names)

    def test_one_that_was_not_made_is_made_when_it_is_asked_for(self) -> None:
        photo = self.photo(2, drawn=True)
        name = f"{photo.folder}/at_crown-{photo.strip_done}.jpg"
        files.store().delete(name)
        self.assertGreater(self.shown(photo, "crown").width, 400)
        self.assertTrue(files.store().exists(name))

    def test_there_is_none_of_what_a_photo_does_not_show(self) -> None:
        photo = self.photo(2, drawn=True)
        bare = self.photo(1)
        for path in (
            f"/photos/{photo.pk}/at/elbow-{photo.strip_done}.jpg",
            f"/photos/{photo.pk}/at/crown-{photo.strip_done + 7}.jpg",
            f"/photos/{photo.pk}/at/whole-{photo.strip_done}.jpg",
            f"/photos/{bare.pk}/at/crown-{bare.strip_done}.jpg",
        ):
            self.assertEqual(self.client.get(path).status_code, 404, path)

    def test_a_photo_of_the_latest_hour_counts(self) -> None:
        older = self.photo(2, drawn=True)
        newer = self.photo(2, drawn=True)
        Photo.objects.filter(pk=older.pk).update(taken_at=timezone.now() - timedelta(hours=3))
        (pane,) = self.panes("own")
        self.assertIn(str(newer.pk), pane.at["tail"].src)
