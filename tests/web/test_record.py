"""The record: eggs and their states, the box, days and weights, incubators' logs, schools, the calendar, two people."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from io import BytesIO
from unittest.mock import patch
from uuid import uuid4

from django.http import HttpResponse
from django.utils import timezone
from icalendar import Calendar

from eyot.bench.actions import Answer, make_call, record_look, withdraw_look
from eyot.bench.models import Call, Look
from eyot.bench.relook_queue import relook_queue_of
from eyot.bench.siblings import judged
from eyot.collection.actions import Practices, change_practices
from eyot.collection.history import changes_of, take_back
from eyot.demo.loading import _moment
from eyot.season.clutch_actions import fetch_log, import_log, set_up, simulated_celsius
from eyot.season.egg_actions import (
    add_egg,
    all_at_once,
    guess_first,
    note_day,
    place_egg,
    set_state,
    sex_egg,
    weigh_egg,
)
from eyot.season.growth import plot_of
from eyot.season.models import Clutch, Egg, EggEvent, Incubator, Weighing
from eyot.season.pairing_actions import place_in_box
from eyot.season.queries import clutches_of_season
from eyot.season.record import due_of, happened, log_of
from eyot.season.scale import simulated_grams
from eyot.season.today import tasks_of
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase
from tests.web.test_pages import FewerThan


class RecordCase(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.now, self.today = timezone.now(), timezone.localdate()

    def ago(self, days: int) -> date:
        return self.today - timedelta(days=days)


class AllAtOnce(RecordCase):
    def states(self) -> dict[int, str]:
        return {egg.number: egg.state for egg in self.clutch().eggs.all()}

    def test_all_that_are_open_are_out_and_shed_and_fed_in_one_go_and_taken_back_as_one(self) -> None:
        before = self.states()
        count = all_at_once(self.clutch(), self.keeper, "out", self.today, "", self.now)
        were_open = [number for number, state in before.items() if state in ("open", "pipped", "wrapped")]
        self.assertEqual(count, len(were_open))
        self.assertEqual([number for number, state in self.states().items() if state == "out"], were_open)
        self.assertEqual(all_at_once(self.clutch(), self.keeper, "shed_on", self.today, "", self.now), count)
        self.assertEqual(
            all_at_once(self.clutch(), self.keeper, "first_meal_on", self.today, "rat pup", self.now), count
        )
        self.assertEqual({egg.first_meal_on for egg in self.clutch().eggs.all() if egg.state == "out"}, {self.today})
        for change in list(changes_of(self.collection))[:3]:
            take_back(change, self.keeper, self.now)
        self.assertEqual(self.states(), before)

    def test_what_fits_none_is_refused(self) -> None:
        for event, code in (("out", "W-06"), ("shed_on", "W-04"), ("danced", "W-02")):
            with self.subTest(event), self.assertRaises(Refused):
                all_at_once(self.clutch(code), self.keeper, event, self.today, "", self.now)
        answer = self.client.post("/clutches/W-06/record/all/", {"event": "out", "on": str(self.today)})
        self.assertContains(answer, "no hatchling of W-06", status_code=422)

    def test_a_wrapped_cord_is_a_state_with_its_advice_on_the_phone(self) -> None:
        set_state(self.egg(3), self.keeper, "wrapped", self.today, "", self.now)
        self.assertTrue(self.egg(3).is_open)
        self.assertContains(self.client.get("/clutches/W-04/cutting/"), "do not pull, cut or unwind anything")


class Eggs(RecordCase):
    def test_a_state_has_its_day_and_what_was_found(self) -> None:
        set_state(self.egg(7), self.keeper, "dead", self.today, "full term, cord round the neck", self.now)
        egg = self.egg(7)
        event = egg.events.last()
        assert event is not None
        self.assertEqual(
            (egg.state, event.value, event.on, event.note),
            ("dead", "dead", self.today, "full term, cord round the neck"),
        )
        self.assertContains(self.client.get("/clutches/W-04/record/"), "cord round the neck")

    def test_the_first_cut_and_the_first_out_set_the_clutchs_days(self) -> None:
        egg = self.egg(1, "W-06")
        set_state(egg, self.keeper, "open", self.today, "", self.now)
        self.assertEqual(self.clutch("W-06").cut_on, self.today)
        set_state(self.egg(1, "W-06"), self.keeper, "out", self.today, "", self.now)
        self.assertEqual((self.clutch("W-06").out_on, self.egg(1, "W-06").stage), (self.today, "wet"))

    def test_taking_back_a_state_takes_back_all_that_came_with_it(self) -> None:
        set_state(self.egg(1, "W-06"), self.keeper, "open", self.today, "", self.now)
        take_back(changes_of(self.collection)[0], self.keeper, self.now)
        self.assertEqual((self.clutch("W-06").cut_on, self.egg(1, "W-06").state), (None, "shut"))
        self.assertFalse(self.egg(1, "W-06").events.filter(value="open").exists())

    def test_what_can_not_be_is_refused(self) -> None:
        for state, on, words in (
            ("out", self.ago(70), "was laid on"),
            ("out", self.today + timedelta(days=1), "lies ahead"),
            ("flown", self.today, "not a state of an egg"),
        ):
            with self.subTest(words), self.assertRaisesMessage(Refused, words):
                set_state(self.egg(1), self.keeper, state, on, "", self.now)
        with self.assertRaisesMessage(Refused, "stands as a slug"):
            set_state(self.egg(6, "W-02"), self.keeper, "out", self.today, "", self.now)

    def test_a_slip_of_the_finger_is_put_right_on_the_same_day(self) -> None:
        set_state(self.egg(7), self.keeper, "slug", self.today, "", self.now)
        set_state(self.egg(7), self.keeper, "open", self.today, "", self.now)
        self.assertEqual(self.egg(7).state, "open")
        set_state(self.egg(6), self.keeper, "dead", self.ago(1), "", self.now)
        with self.assertRaisesMessage(Refused, "stands as dead"):
            set_state(self.egg(6), self.keeper, "open", self.today, "", self.now)

    def test_a_state_that_is_sent_twice_counts_once(self) -> None:
        key = uuid4()
        for _ in range(2):
            set_state(self.egg(7), self.keeper, "open", self.today, "", self.now, key)
        self.assertEqual(self.egg(7).events.filter(value="open").count(), 1)

    def test_egg_three_is_not_entered_twice(self) -> None:
        with self.assertRaisesMessage(Refused, "has an egg 3 already"):
            add_egg(self.clutch(), self.keeper, 3, self.now)
        with self.assertRaisesMessage(Refused, "numbered from 1 to 25"):
            add_egg(self.clutch(), self.keeper, 99, self.now)
        self.assertEqual(add_egg(self.clutch(), self.keeper, 8, self.now).number, 8)

    def test_eggs_lie_where_they_are_put(self) -> None:
        place_egg(self.egg(7), self.keeper, 0.25, 0.5, on_top=True, mark="×", at=self.now, key=None)
        egg = self.egg(7)
        self.assertEqual((egg.across, egg.down, egg.on_top, egg.mark), (0.25, 0.5, True, "×"))
        with self.assertRaisesMessage(Refused, "outside the box"):
            place_egg(egg, self.keeper, 1.2, 0.5, on_top=False, mark="", at=self.now, key=None)
        box = self.client.get("/clutches/W-04/").context["box"]
        self.assertEqual(box[-1].frame.egg.number, 7)

    def test_an_egg_that_is_added_later_lies_where_its_number_says(self) -> None:
        self.clutch().eggs.exclude(number__in=(1, 2, 4, 5)).delete()
        add_egg(self.clutch(), self.keeper, 3, self.now)
        added = self.egg(3)
        self.assertEqual((added.across, added.down), place_in_box(3, 5))
        self.assertEqual([place_in_box(number, 5) for number in (3, 5)], [(0.95, 0.275), (0.725, 0.725)])

    def test_what_happened_to_an_egg_is_told_in_words_by_day(self) -> None:
        egg = self.egg(1, "W-02")
        out, shed = egg.events.get(value="out").on, egg.shed_on
        assert shed
        for kind, value, note, days in (
            ("shed", "", "", 40),
            ("refused", "rat pup", "", 20),
            ("ailing", "", "wheezing", 21),
            ("well", "", "", 25),
        ):
            EggEvent.objects.create(egg=egg, kind=kind, value=value, note=note, on=shed + timedelta(days=days))
        told = happened(egg)
        self.assertEqual(told[0], (out, "out"))
        self.assertIn((shed, "first shed"), told)
        self.assertEqual(
            [words for on, words in told[-4:]], ["refused rat pup", "not sound: wheezing", "well again", "shed"]
        )
        self.assertContains(self.client.get("/clutches/W-02/1/record/"), "refused rat pup")

    def test_the_far_corners_are_in_the_box(self) -> None:
        for across, down in ((0.0, 0.0), (1.0, 1.0)):
            place_egg(self.egg(7), self.keeper, across, down, on_top=False, mark="", at=self.now, key=None)
            self.assertEqual((self.egg(7).across, self.egg(7).down), (across, down))

    def test_a_guess_is_a_line(self) -> None:
        guess_first(self.egg(7), self.keeper, "pied" * 60, "", self.now, None)
        self.assertEqual(self.egg(7).first_guess, "pied" * 50)

    def test_a_first_guess_is_never_overwritten(self) -> None:
        guess_first(self.egg(7), self.keeper, "Mojave", "pale head", self.now, None)
        guess_first(self.egg(7), self.helper, "Leopard", "", self.now, None)
        egg = self.egg(7)
        self.assertEqual((egg.first_guess, egg.note), ("Mojave", "pale head"))
        self.assertEqual(egg.events.last().note, "another first guess: Leopard")  # type: ignore[union-attr]


class Hatchlings(RecordCase):
    def test_blue_shed_and_first_meal_move_the_stage(self) -> None:
        egg = self.egg(1, "W-03")
        note_day(egg, self.keeper, "shed_on", self.today, "", self.now)
        self.assertEqual((self.egg(1, "W-03").stage, self.clutch("W-03").shed_on), ("shed", self.today))
        note_day(self.egg(1, "W-03"), self.keeper, "first_meal_on", self.today, "rat pup", self.now)
        note_day(self.egg(1, "W-03"), self.keeper, "first_meal_on", self.ago(2), "mouse hopper", self.now)
        egg = self.egg(1, "W-03")
        self.assertEqual(
            [event.value for event in egg.events.filter(kind=EggEvent.Kind.MEAL)], ["mouse hopper", "rat pup"]
        )
        self.assertEqual(egg.first_meal_on, self.ago(2))

    def test_days_out_of_order_are_refused(self) -> None:
        with self.assertRaisesMessage(Refused, "not out yet"):
            note_day(self.egg(7), self.keeper, "shed_on", self.today, "", self.now)
        with self.assertRaisesMessage(Refused, "left the egg on"):
            note_day(self.egg(1, "W-03"), self.keeper, "shed_on", self.ago(20), "", self.now)

    def test_a_sex_has_how_and_how_sure_and_a_doubtful_one_does_not_count(self) -> None:
        self.client.post("/clutches/W-02/3/record/sex/", {"sex": "female", "how": "popped"})
        egg = self.egg(3, "W-02")
        self.assertEqual((egg.sex, egg.sexed_by, egg.sex_sure), ("female", "popped", False))
        page = self.client.get("/clutches/W-02/")
        self.assertEqual(page.status_code, 200)
        with self.assertRaisesMessage(Refused, "can't be sexed"):
            sex_egg(self.egg(7), self.keeper, "male", "popped", sure=True, at=self.now)

    def test_weights_come_typed_or_from_the_simulated_scale(self) -> None:
        self.client.post("/clutches/W-02/1/record/scale/")
        last = self.egg(1, "W-02").last_weight
        assert last is not None
        self.assertEqual((last.source, last.grams), ("scale", simulated_grams(self.egg(1, "W-02"), self.today)))
        self.assertContains(self.client.get("/clutches/W-02/1/record/"), "by the simulated scale")
        self.client.post("/clutches/W-02/1/record/weights/", {"grams": "61,5 g"})
        self.assertEqual(self.egg(1, "W-02").weighings.filter(source="typed").get().grams, 61.5)
        for grams in (-3, 0, 900):
            with self.assertRaisesMessage(Refused, "lies above 0"):
                weigh_egg(self.egg(1, "W-02"), self.keeper, grams, self.today, "typed", self.now)

    def test_growth_is_a_line_through_the_weights(self) -> None:
        rows = [Weighing(grams=grams, on=self.ago(days)) for grams, days in ((60, 20), (57, 10), (71, 0))]
        plot = plot_of(rows)
        assert plot is not None
        self.assertEqual([words.split(" g")[0] for _, _, words in plot.points], ["60", "57", "71"])
        heights = [y for _, y, _ in plot.points]
        self.assertTrue(heights[2] < heights[0] < heights[1])
        self.assertEqual([grams for _, grams in plot.grams], [50, 80])
        self.assertIsNone(plot_of(rows[:1]))

    def test_a_hatchling_stays_as_an_animal_with_what_was_called(self) -> None:
        answer = self.client.post("/clutches/V-09/2/hold-back/", {"name": "Sedgling"})
        animal = self.collection.animals.get(name="Sedgling")
        self.assertRedirects(answer, f"/animals/{animal.pk}/")
        self.assertEqual((animal.dam.name, animal.sire.name, animal.sex), ("Sedge", "Bittern", "male"))  # type: ignore[union-attr]
        found = {gene.gene: (gene.copies, gene.chance, gene.known) for gene in animal.genes.all()}
        self.assertEqual(found, {"gravel": (1, "1", "seen"), "ultramel": (1, "1", "declared")})
        again = self.client.post("/clutches/V-09/2/hold-back/", {"name": "Twin"})
        self.assertContains(again, "stays already, as Sedgling", status_code=422)
        self.assertContains(
            self.client.post("/clutches/W-02/2/hold-back/", {"name": "X"}), "no call yet", status_code=422
        )

    def test_looks_that_are_due_come_with_the_most_telling_first(self) -> None:
        queue = relook_queue_of(self.collection, self.today)
        self.assertEqual(
            {(row.egg.clutch.code, row.egg.number, row.stage) for row in queue.rows}, {("W-02", 5, "shed")}
        )
        note_day(self.egg(1, "W-03"), self.keeper, "shed_on", self.today, "", self.now)
        gains = [row.gain for row in relook_queue_of(self.collection, self.today).rows]
        self.assertEqual(len(gains), 2)
        self.assertEqual(gains, sorted(gains, reverse=True))
        self.assertContains(self.client.get("/relook/"), "W-03, egg 1")
        self.assertContains(self.client.get("/relook/count/"), "2 hatchlings due a look")


class Incubation(RecordCase):
    def incubator(self) -> Incubator:
        return self.collection.incubators.get(name="Cupboard")

    def test_a_loggers_file_is_read_with_gaps_spikes_and_units(self) -> None:
        other = Incubator.objects.create(collection=self.collection, name="Other")
        text = "Date Time;Temperature (°F)\n2026-05-01 10:00;88,7\n2026-05-01 11:00;89,6\nbroken;row\n"
        taken = import_log(other, self.keeper, text.encode(), self.now)
        self.assertEqual((taken.new, taken.known), (2, 0))
        self.assertEqual(taken.troubles, ["row 4: “broken;row” is not a time and a temperature"])
        self.assertEqual([round(row.celsius, 1) for row in other.temperatures.all()], [31.5, 32.0])
        take_back(changes_of(self.collection)[0], self.keeper, self.now)
        self.assertEqual(other.temperatures.count(), 0)
        import_log(other, self.keeper, text.encode(), self.now)
        again = import_log(other, self.keeper, b"2026-05-01 10:00,31.5\n2026-05-01 12:00,31.6\n", self.now)
        self.assertEqual((again.new, again.known), (1, 1))
        with self.assertRaisesMessage(Refused, "No row of the file"):
            import_log(other, self.keeper, b"time,temperature\nnever,hot\n", self.now)

    def test_the_simulated_logger_has_gaps_and_spikes_and_is_marked(self) -> None:
        other = Incubator.objects.create(collection=self.collection, name="Other")
        count = fetch_log(other, self.keeper, self.now - timedelta(days=40), self.now)
        self.assertTrue(1500 < count < 40 * 48)
        self.assertEqual(fetch_log(other, self.keeper, self.now - timedelta(days=40), self.now), 0)
        self.assertFalse(other.temperatures.filter(simulated=False).exists())
        values = list(other.temperatures.values_list("celsius", flat=True))
        self.assertTrue(30.5 < sum(values) / len(values) < 32.5 and max(values) > 33)
        moment = datetime(2026, 4, 1, 12, tzinfo=timezone.get_current_timezone())
        self.assertEqual(simulated_celsius("A", moment), simulated_celsius("A", moment))

    def test_the_log_moves_the_window_and_says_where_it_comes_from(self) -> None:
        clutch = self.clutch("W-06")
        clutch.incubator = Incubator.objects.create(collection=self.collection, name="Cool")
        clutch.save()
        rows = "".join(f"{self.ago(39)} {hour:02}:00,30.5\n" for hour in range(24))
        import_log(clutch.incubator, self.keeper, rows.encode(), self.now)
        due = due_of(self.clutch("W-06"))
        assert due is not None and clutch.laid_on is not None
        self.assertEqual((due.start - clutch.laid_on).days, 56)
        self.assertIn("mean of 30.5 °C", due.source)
        self.assertIn("rule of thumb", due.source)

    def test_stretches_are_told_apart_with_how_far_they_went_and_how_many_are_left_out(self) -> None:
        clutch = self.clutch("W-06")
        clutch.incubator = Incubator.objects.create(collection=self.collection, name="Draughty")
        clutch.save()
        cold, hot = {2: 29.0, 3: 28.2}, dict.fromkeys((6, 9, 12, 15, 18), 33.4)
        rows = "".join(f"{self.ago(30)} {hour:02}:00,{(cold | hot).get(hour, 31)}\n" for hour in range(24))
        import_log(clutch.incubator, self.keeper, rows.encode(), self.now)
        log = log_of(self.clutch("W-06"), self.now)
        assert log is not None
        warm, cool = (next(one for one in log.sentences if word in one) for word in ("above", "below"))
        self.assertRegex(cool, r"^1 time below 29\.5 °C: \d+ \w+ 02:00 for 1 h, down to 28\.2 °C\.$")
        self.assertTrue(warm.startswith("5 times above 33 °C, the last 4: "), warm)
        self.assertEqual((warm.count("; "), warm.count("one reading, up to 33.4 °C")), (3, 4))
        self.assertNotIn("06:00", warm)

    def test_the_page_fetches_signs_and_places(self) -> None:
        record = "/clutches/W-04/record/"
        self.client.post(f"{record}signs/", {"sign": "veins_receded", "seen": "yes"})
        self.assertEqual(self.clutch().ready_signs, ["veins_receded"])
        self.client.post(f"{record}signs/", {"sign": "veins_receded"})
        self.assertEqual(self.clutch().ready_signs, [])
        self.client.post(
            f"{record}place/",
            {
                "place": "box 9",
                "substrate": "perlite",
                "incubator": "New one",
                "note": "n",
                "note_shown": self.clutch().note,
            },
        )
        clutch = self.clutch()
        self.assertEqual((clutch.place, clutch.substrate, clutch.incubator.name), ("box 9", "perlite", "New one"))  # type: ignore[union-attr]
        page = self.client.post(f"{record}log/fetch/", follow=True)
        self.assertContains(page, "readings fetched from the simulated logger")
        file = BytesIO(b"2026-05-01 10:00,31.5\n")
        file.name = "log.csv"
        self.assertContains(self.client.post(f"{record}log/", {"log": file}, follow=True), "1 readings taken")
        self.assertContains(self.client.post(f"{record}log/"), "choose the logger", status_code=422)

    def test_columns_are_found_by_their_names_in_any_order(self) -> None:
        other = Incubator.objects.create(collection=self.collection, name="Other")
        taken = import_log(other, self.keeper, b"celsius,humidity,time\n31.5,88,2026-05-01 10:00\n", self.now)
        self.assertEqual((taken.new, taken.troubles), (1, []))
        self.assertEqual(other.temperatures.get().celsius, 31.5)

    def test_the_mean_is_of_the_days_from_the_laying_to_the_hatching(self) -> None:
        clutch = self.clutch("W-06")
        clutch.out_on, clutch.note = self.ago(10), ""
        clutch.save()
        rows = [(self.ago(12), 31.0), (self.ago(10), 32.0), (self.ago(9), 28.0)]
        log = "".join(f"{day} {hour:02}:00,{celsius}\n" for day, celsius in rows for hour in range(24))
        new = Incubator.objects.create(collection=self.collection, name="New")
        import_log(new, self.keeper, log.encode(), self.now)
        set_up(clutch, self.keeper, "box 9", "perlite", "new", "", "", self.now)
        self.assertAlmostEqual(self.clutch("W-06").mean_c or 0, 31.5, 1)
        turned = Incubator.objects.create(collection=self.collection, name="Newest first")
        import_log(turned, self.keeper, "".join(reversed(log.splitlines(keepends=True))).encode(), self.now)
        mean = self.clutch("W-06").mean_c
        set_up(self.clutch("W-06"), self.keeper, "box 9", "perlite", "newest first", "", "", self.now)
        self.assertEqual(self.clutch("W-06").mean_c, mean, "a file in either order")
        set_up(self.clutch("W-06"), self.keeper, "box 9", "perlite", "", "", "", self.now)
        self.assertIsNone(self.clutch("W-06").mean_c)

    def test_notes_that_another_wrote_meanwhile_are_told_and_not_overwritten(self) -> None:
        Clutch.objects.filter(code="W-06").update(note="Turned at nine.\nTwo windowed")
        given = {"place": "box 9", "note": "One is dented", "note_shown": "an older note"}
        page = self.client.post("/clutches/W-06/record/place/", given)
        self.assertContains(page, "the notes became: “Turned at nine.", status_code=422)
        form = page.context["place_form"]
        self.assertEqual(form["note"].value(), "One is dented")
        self.assertEqual(form["note_shown"].value(), "Turned at nine.\nTwo windowed")
        self.assertNotEqual(self.clutch("W-06").place, "box 9")
        both = {
            "place": "box 9",
            "note": "One is dented; two windowed",
            "note_shown": "Turned at nine.\r\nTwo windowed",
        }
        self.assertEqual(self.client.post("/clutches/W-06/record/place/", both).status_code, 302)
        self.assertEqual(self.clutch("W-06").note, "One is dented; two windowed")

    def test_the_demo_says_nothing_of_later_than_now(self) -> None:
        """Also where it is loaded before the evening to which its looks belong."""
        zone = timezone.get_default_timezone()
        for hour, minute in ((0, 5), (12, 0), (23, 59)):
            now = datetime(2026, 7, 4, hour, minute, tzinfo=zone)
            with patch("django.utils.timezone.now", return_value=now):
                made = [
                    _moment(now.date(), number, later)
                    for number in range(1, 10)
                    for later in (timedelta(), timedelta(hours=1))
                ]
            self.assertTrue(all(one <= now for one in made), now)
        self.assertFalse(Look.objects.filter(seen_at__gt=timezone.now()).exists())
        self.assertFalse(Call.objects.filter(made_at__gt=timezone.now()).exists())

    def test_queries_do_not_grow_with_readings(self) -> None:
        self.client.get("/clutches/W-04/record/")
        with self.assertNumQueries(FewerThan(19)):
            self.client.get("/clutches/W-04/record/")


class SchoolsAndDays(RecordCase):
    def schools(self, **other: object) -> Practices:
        values = {
            "rounds_days": "12",
            "opening": "after_pip",
            "opening_days": 3,
            "dam_least_g": 1500,
            "sire_least_g": 450,
        }
        return Practices(**(values | other))  # type: ignore[arg-type]

    def tasks(self) -> dict[str, str]:
        clutches = list(clutches_of_season(self.collection, None))
        return {task.title: task.why for task in tasks_of(clutches, self.today, {})}

    def test_reminders_follow_the_school_of_opening(self) -> None:
        self.collection.clutches.filter(code="W-06").update(laid_on=self.ago(51))
        self.assertIn("Leave W-06 alone", self.tasks())
        change_practices(self.collection, self.keeper, self.schools(opening="before_due"), self.now)
        self.assertIn("by your school, 3 days before the due date", self.tasks()["Cut W-06"])
        change_practices(self.collection, self.keeper, self.schools(opening="never"), self.now)
        self.assertFalse(any(title.startswith("Cut") for title in self.tasks()))

    def test_what_is_past_its_window_is_late_and_stands_first(self) -> None:
        self.collection.clutches.filter(code="W-06").update(laid_on=self.ago(66))
        tasks = tasks_of(list(clutches_of_season(self.collection, None)), self.today, {})
        self.assertEqual((tasks[0].title, tasks[0].late), ("Look over the eggs of W-06", True))

    def test_schools_are_changed_on_their_page(self) -> None:
        given = {
            "rounds_days": "7 7 30",
            "opening": "never",
            "opening_days": "3",
            "dam_least_g": "1600",
            "sire_least_g": "400",
            "sure_percent": "97",
            "likely_percent": "80",
            "not_percent": "3",
            "label_percent": "10",
            "day_form": "day",
            "grade": "C",
        }
        self.assertRedirects(self.client.post("/schools/", given), "/")
        self.collection.refresh_from_db()
        self.assertEqual((self.collection.rounds_days, self.collection.dam_least_g), ("7 7 30", 1600))
        for wrong in ({"rounds_days": "often"}, {"opening": "x"}, {"dam_least_g": "heavy"}, {"opening_days": "30"}):
            self.assertEqual(self.client.post("/schools/", given | wrong).status_code, 422)

    def test_the_calendar_holds_what_is_expected_with_stable_names(self) -> None:
        def events() -> dict[str, date]:
            calendar = Calendar.from_ical(self.client.get("/season.ics").content)
            return {str(event["UID"]): event["DTSTART"].dt for event in calendar.walk("VEVENT")}

        clutch, before = self.clutch("W-06"), events()
        assert clutch.laid_on is not None
        self.assertEqual(before[f"{clutch.pk}-due@eyot"], clutch.laid_on + timedelta(days=53))
        self.assertIn(f"{self.clutch('W-07').pk}-round@eyot", before)
        own = {name for name in before if name.startswith(f"{clutch.pk}-")}
        self.assertEqual(own, {f"{clutch.pk}-{kind}@eyot" for kind in ("due", "out", "blue", "shed")})
        self.assertFalse(any(name.startswith(f"{self.clutch('V-09').pk}-") for name in before))
        self.collection.clutches.filter(code="W-06").update(laid_on=clutch.laid_on - timedelta(days=2))
        after = events()
        self.assertEqual(set(after), set(before))
        self.assertEqual(after[f"{clutch.pk}-due@eyot"], clutch.laid_on + timedelta(days=51))

    def test_an_earlier_season_is_a_page_of_its_own(self) -> None:
        year = self.ago(430).year
        page = self.client.get(f"/?year={year}")
        self.assertContains(page, "V-09")
        self.assertNotContains(page, "W-06</text>")
        self.assertNotContains(self.client.get("/"), "V-09")


class TwoPeople(RecordCase):
    def live(self, seen: str) -> HttpResponse:
        return self.client.get(f"/clutches/W-04/live/?seen={seen}")  # type: ignore[return-value]

    def test_the_box_is_drawn_anew_only_when_somebody_changed_something(self) -> None:
        stamp = self.client.get("/clutches/W-04/").context["stamp"]
        self.assertEqual(self.live(stamp).status_code, 204)
        set_state(self.egg(7), self.helper, "open", self.today, "", self.now)
        answer = self.live(stamp)
        self.assertEqual(answer.status_code, 200)
        self.assertNotEqual(answer.context["stamp"], stamp)  # type: ignore[attr-defined]
        look = {"trait": "head_stamp", "level": "busy", "key": str(uuid4())}
        seen = answer.context["stamp"]  # type: ignore[attr-defined]
        self.client.post("/clutches/W-04/7/cut/look/", look)
        after = self.live(seen)
        self.assertEqual(after.status_code, 200)
        seen = after.context["stamp"]  # type: ignore[attr-defined]
        given = record_look(self.egg(1), self.keeper, Answer("head_stamp", "busy", "egg", "sure", uuid4()), self.now)
        after = self.live(seen)
        self.assertEqual(after.status_code, 200)
        withdraw_look(self.egg(1), self.keeper, given.pk, self.now)
        after = self.live(after.context["stamp"])  # type: ignore[attr-defined]
        self.assertEqual(after.status_code, 200)
        seen = after.context["stamp"]  # type: ignore[attr-defined]
        verdicts = dict.fromkeys(judged(self.clutch()).model.pairing.given_genes, ("not", 1))
        make_call(judged(self.clutch()), self.egg(1), self.keeper, verdicts, "egg", "", uuid4(), self.now)
        self.assertEqual(self.live(seen).status_code, 200)

    def test_another_collections_clutch_is_not_to_be_changed(self) -> None:
        for path in ("record/", "cutting/", "sheet/", "live/"):
            self.assertEqual(self.client.get(f"/clutches/X-01/{path}").status_code, 404, path)
        for path in (
            "record/laid/",
            "1/state/",
            "1/place/",
            "1/cut/state/",
            "1/record/sex/",
            "1/hold-back/",
            "record/close/",
        ):
            self.assertEqual(self.client.post(f"/clutches/X-01/{path}").status_code, 404, path)

    def test_the_place_endpoint_answers_without_a_page(self) -> None:
        answer = self.client.post(
            "/clutches/W-04/7/place/", {"across": "0.2", "down": "0.9", "on_top": "no", "mark": ""}
        )
        self.assertEqual(answer.status_code, 204)
        for given in ({"across": "far"}, {"across": "2", "down": "0"}):
            self.assertEqual(self.client.post("/clutches/W-04/7/place/", given).status_code, 422)
        self.assertEqual(Egg.objects.get(pk=self.egg(7).pk).down, 0.9)
