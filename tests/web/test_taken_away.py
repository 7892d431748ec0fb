"""A collection taken away and read in elsewhere: equal, row for row and byte for byte; what is no such zip; what is removed."""

from __future__ import annotations

import hashlib
import io
import json
import os
import tempfile
import zipfile
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from unittest import TestCase
from unittest.mock import patch

import jsonschema
from django.apps import apps
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from django.utils import timezone

from eyot.accounts.actions import ask_removal as ask_account_removal
from eyot.bench.models import Look
from eyot.collection.history import changes_of, recording, take_back
from eyot.collection.member_actions import invite_member, new_collection
from eyot.collection.models import Collection, Membership, Removal
from eyot.collection.removal_actions import DAYS_TO_THINK, ask_removal
from eyot.inbox.models import Drop, InboxPhoto, Print
from eyot.photos.actions import add_photo
from eyot.photos.files import has_original, keep_original, store
from eyot.photos.models import GreyPrint, Photo
from eyot.safekeeping.exporting import export
from eyot.safekeeping.importing import bring_in
from eyot.safekeeping.kinds import KINDS, MANIFEST
from eyot.safekeeping.removing import remove_collection, remove_due
from eyot.shared.refusal import Refused
from tests.collection_schema import schema
from tests.jobs import do_jobs, stored_in
from tests.web.season_data import SeasonCase
from tests.web.test_photos import encoded

SCHEMA = Path(__file__).resolve().parents[2] / "docs/formats/collection.schema.json"
NOW = datetime(2026, 6, 12, 3, 17, tzinfo=UTC)
OF_SERVERS = {
    "membership",
    "memberinvitation",
    "backuprun",
    "removal",
    "collection",
    "genereckoning",
    "print",
    "listprint",
    "seeking",
    "madeupphoto",
}


class Kinds(TestCase):
    def test_every_kind_of_row_belongs_to_a_collection_or_to_a_server(self) -> None:
        ours = {m._meta.label_lower for m in apps.get_models() if m.__module__.startswith("eyot.")}
        of_servers = {label for label in ours if label.split(".")[1] in OF_SERVERS}
        self.assertEqual(ours - {kind.label for kind in KINDS}, of_servers)

    def test_the_schema_in_the_docs_is_the_one_of_the_models(self) -> None:
        text = json.dumps(schema(), indent=1, ensure_ascii=False) + "\n"
        if os.environ.get("EYOT_REWRITE"):
            SCHEMA.write_text(text)
        self.assertEqual(SCHEMA.read_text(), text)


class Zips(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(STORAGES=stored_in(folder.name)))
        egg = self.collection.clutches.get(code="W-02").eggs.first()
        upload = SimpleUploadedFile("egg.jpg", encoded())
        self.photo = add_photo(egg, self.keeper, upload, "shed", NOW)
        drop = Drop.objects.create(collection=self.collection, by=self.keeper, began_at=NOW, last_at=NOW)
        came = {
            "collection": self.collection,
            "drop": drop,
            "came_at": NOW,
            "added_by": self.keeper,
            "fingerprint": b"\x00\xff",
        }
        filed = InboxPhoto.objects.create(pk=self.photo.pk, photo=self.photo, state="filed", name="filed.jpg", **came)
        self.waiting = InboxPhoto.objects.create(state="waits", name="waits.jpg", same_as=filed, **came)
        keep_original(self.waiting.folder, io.BytesIO(encoded()))
        set_by = {"set_at": NOW, "set_by": self.keeper}
        GreyPrint.objects.create(collection=self.collection, grey=[0.2, 0.2, 0.2], paper=[0.8, 0.8, 0.8], **set_by)

    def zip_of(self, collection: Collection) -> bytes:
        file = io.BytesIO()
        export(collection, file, NOW)
        return file.getvalue()

    def unpacked(self, data: bytes) -> dict[str, bytes]:
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            return {name: file.read(name) for name in file.namelist()}


class TakenAway(Zips):
    def test_read_in_elsewhere_it_is_equal_row_for_row_and_byte_for_byte(self) -> None:
        animal = self.collection.animals.create(name="Gone Again")
        with recording(self.collection, self.keeper, NOW, "Gone Again deleted", f"animal:{animal.pk}") as record:
            record.remove(animal)
        before = self.unpacked(self.zip_of(self.collection))
        data = self.zip_of(self.collection)
        names = [user.pk for user in get_user_model().objects.all()]
        remove_collection(self.collection)
        for user in get_user_model().objects.filter(pk__in=names):
            user.username = f"elsewhere {user.pk}"
            user.save()
        owner = get_user_model().objects.create_user("somebody new")
        there = new_collection(owner, "Other Reach")
        counts = bring_in(io.BytesIO(data), there)
        there.refresh_from_db()
        self.assertGreater(counts["eggs"], 20)
        Membership.objects.all().delete()  # of whom the people's roles are told
        after = self.unpacked(self.zip_of(there))
        self.assertEqual(before.keys(), after.keys())
        for name in before.keys() - {MANIFEST, "records/people.jsonl"}:
            self.assertEqual(before[name], after[name], name)
        people = [
            [json.loads(line)["name"] for line in one["records/people.jsonl"].splitlines()] for one in (before, after)
        ]
        self.assertEqual(*people)
        self.assertIn("photos/1/original.jpg", before)
        take_back(changes_of(there)[0], owner, NOW)
        self.assertTrue(there.animals.filter(name="Gone Again").exists())

    def test_what_waits_in_the_inbox_comes_along_and_what_was_filed_is_still_the_same_photo(self) -> None:
        there = new_collection(self.keeper, "Second Bed")
        bring_in(io.BytesIO(self.zip_of(self.collection)), there)
        waits, filed = (InboxPhoto.objects.get(collection=there, name=name) for name in ("waits.jpg", "filed.jpg"))
        self.assertTrue(has_original(waits.folder))
        self.assertEqual((filed.pk, waits.same_as, bytes(waits.fingerprint)), (filed.photo_id, filed, b"\x00\xff"))
        self.assertNotIn(self.waiting.pk, (waits.pk, filed.pk))

    def test_what_came_and_is_not_looked_at_yet_is_looked_at_there(self) -> None:
        InboxPhoto.objects.filter(pk=self.waiting.pk).update(state="sent", same_as=None)
        there = new_collection(self.keeper, "Second Bed")
        bring_in(io.BytesIO(self.zip_of(self.collection)), there)
        while do_jobs():
            pass
        self.assertEqual(InboxPhoto.objects.get(collection=there, name="waits.jpg").state, "waits")

    def test_what_is_taken_away_is_as_the_schema_says(self) -> None:
        files = self.unpacked(self.zip_of(self.collection))
        whole = json.loads(SCHEMA.read_text())
        faults = [*jsonschema.Draft202012Validator(whole).iter_errors(json.loads(files[MANIFEST]))]
        checked = 0
        for name, data in files.items():
            if name.endswith(".jsonl"):
                kind = name.removeprefix("records/").removesuffix(".jsonl")
                check = jsonschema.Draft202012Validator(whole["$defs"][kind])
                for line in data.splitlines():
                    faults += check.iter_errors(json.loads(line))
                    checked += 1
        self.assertEqual([fault.message for fault in faults], [])
        self.assertGreater(checked, 300)

    def test_nothing_of_the_neighbours_and_no_secret_is_in_it(self) -> None:
        invite_member(self.collection, self.keeper, "Night helper", "helper", 7, NOW)
        text = b"".join(self.unpacked(self.zip_of(self.collection)).values())
        for secret in (self.keeper.password, *self.collection.member_invitations.values_list("token", flat=True)):
            self.assertNotIn(str(secret).encode(), text)
        own = {animal.name for animal in self.collection.animals.all()}
        theirs = {
            animal.name for one in Collection.objects.exclude(pk=self.collection.pk) for animal in one.animals.all()
        }
        rows = self.unpacked(self.zip_of(self.collection))["records/animals.jsonl"].splitlines()
        self.assertEqual({json.loads(row)["name"] for row in rows}, own)
        self.assertTrue(theirs - own)

    def test_beside_its_own_source_it_is_a_second_one_that_shares_nothing(self) -> None:
        there = new_collection(self.keeper, "Second Bed")
        before = {kind.name: kind.rows_of(self.collection).count() for kind in KINDS}
        bring_in(io.BytesIO(self.zip_of(self.collection)), there)
        for collection in (there, self.collection):
            self.assertEqual({kind.name: kind.rows_of(collection).count() for kind in KINDS}, before)
        self.assertEqual(there.clutches.get(code="W-02").dam.collection, there)
        look = Look.objects.filter(egg__clutch__collection=there).first()
        assert look is not None
        self.assertEqual(look.seen_by, self.keeper)

    def test_by_the_page_an_owner_takes_it_away_and_reads_it_in(self) -> None:
        answer = self.client.post("/keeping/take-away/")
        self.assertEqual(answer["Content-Type"], "application/zip")
        self.assertIn("withy-bed-", answer["Content-Disposition"])
        data = b"".join(answer.streaming_content)
        new_collection(self.keeper, "Second Bed")
        page = self.client.get("/in/second-bed/keeping/")
        self.assertContains(page, "Read it in")
        given = {"zip": SimpleUploadedFile("a.zip", data)}
        page = self.client.post("/in/second-bed/keeping/read-in/", given, follow=True)
        self.assertContains(page, f"{self.collection.animals.count()} animals")
        page = self.client.post("/in/second-bed/keeping/read-in/", {"zip": SimpleUploadedFile("a.zip", data)})
        self.assertContains(page, "is read into an empty collection", status_code=422)
        page = self.client.post("/in/second-bed/keeping/read-in/")
        self.assertContains(page, "Choose the zip", status_code=422)


class FullDisk(Zips):
    def test_no_space_for_the_zip_or_for_its_photos_is_told_and_leaves_nothing_behind(self) -> None:
        full = OSError(28, "No space left on device")
        with patch("eyot.safekeeping.exporting.pieces", side_effect=full):
            page = self.client.post("/keeping/take-away/")
        self.assertContains(page, "could not be written: No space left on device", status_code=422)
        data, there = self.zip_of(self.collection), new_collection(self.keeper, "Other Reach")
        with (
            patch("eyot.safekeeping.importing.File", side_effect=full),
            self.assertRaisesMessage(Refused, "does not take it: No space left on device. Nothing was read in."),
        ):
            bring_in(io.BytesIO(data), there)
        self.assertFalse(there.animals.exists())


class NoSuchZip(Zips):
    def setUp(self) -> None:
        super().setUp()
        self.files = self.unpacked(self.zip_of(self.collection))
        self.there = new_collection(self.keeper, "Other Reach")

    def zipped(self, files: dict[str, bytes]) -> bytes:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as file:
            for name, data in files.items():
                file.writestr(name, data)
        return out.getvalue()

    def listed(self, change: Callable[[dict[str, Any]], None] = lambda manifest: None) -> dict[str, bytes]:
        """The files with a manifest that fits them, and then is changed."""
        manifest = json.loads(self.files[MANIFEST])
        manifest["files"] = [
            {"name": name, "size": len(data), "sha256": hashlib.sha256(data).hexdigest()}
            for name, data in self.files.items()
            if name != MANIFEST
        ]
        change(manifest)
        return self.files | {MANIFEST: json.dumps(manifest).encode()}

    def refused(self, data: bytes, words: str) -> None:
        before = sorted(store().listdir("")[0])
        with self.subTest(words), self.assertRaisesRegex(Refused, words) as caught:
            bring_in(io.BytesIO(data), self.there)
        if caught:
            self.assertIn("Nothing was read in.", str(caught.exception))
        self.assertFalse(self.there.animals.exists())
        self.assertEqual(sorted(store().listdir("")[0]), before)

    def test_what_is_no_whole_zip_of_ours_is_refused_with_the_reason(self) -> None:
        whole = self.zipped(self.files)
        self.refused(b"no zip at all", "no whole zip")
        self.refused(whole[: len(whole) // 2], "no whole zip")
        self.refused(self.zipped({"a.txt": b"a"}), "no collection of Eyot")
        self.refused(self.zipped(self.files | {"../outside.txt": b"x"}), "leads outside")
        self.refused(self.zipped(self.files | {"photos/1/more.jpg": b"x"}), "does not stand in its manifest")
        self.refused(self.zipped(self.files | {"photos/1/original.jpg": b"x"}), "not as it was")
        without = {name: data for name, data in self.files.items() if not name.endswith("original.jpg")}
        self.refused(self.zipped(without), "photos/1/original.jpg is missing")
        self.refused(self.zipped(self.listed(lambda m: m.update(format="eyot-collection/2"))), "newer Eyot")
        self.refused(self.zipped(self.files | {MANIFEST: b"[]"}), "manifest can't be read")
        with override_settings(MOST_IMPORTED_BYTES=1000):
            self.refused(whole, "It claims .* GB; at most")

    def test_a_hundred_gigabytes_that_are_only_claimed_are_refused_before_a_byte_is_read(self) -> None:
        data = bytearray(self.zipped(self.files))
        entry = data.rindex(b"PK\x01\x02")
        data[entry + 24 : entry + 28] = (0xFFFFFFFE).to_bytes(4, "little")  # the size before packing
        with override_settings(MOST_IMPORTED_BYTES=10**9):
            self.refused(bytes(data), "It claims 4 GB|claims")

    def test_what_was_taken_away_before_lines_and_cards_were_found_is_read_in(self) -> None:
        name = "records/photos.jsonl"
        (photo,) = [json.loads(line) for line in self.files[name].splitlines()]
        later = ("line_confidence", "line_missing", "find_wanted", "find_done", "cards", "card_overruled", "size")
        kept = {key: value for key, value in photo.items() if key not in later}
        self.assertEqual(len(photo) - len(kept), len(later))
        self.files[name] = json.dumps(kept).encode() + b"\n"
        bring_in(io.BytesIO(self.zipped(self.listed())), self.there)
        read = Photo.objects.get(egg__clutch__collection=self.there)
        self.assertEqual((read.find_wanted, read.cards, read.line_confidence), (0, [], None))

    def test_rows_that_can_not_be_are_told_by_file_and_line(self) -> None:
        name = "records/animals.jsonl"
        first, *rest = self.files[name].splitlines(keepends=True)
        row = json.loads(first)
        for changed, words in (
            (row | {"dam": 99_999}, "animals.jsonl, line 1, dam: refers to 99999"),
            (row | {"sex": "both"}, "animals.jsonl, line 1, sex: "),
            (row | {"hatched_on": "never"}, "animals.jsonl, line 1, hatched_on: "),
            (row | {"id": 2}, "two rows of collection.animal have one number"),
            (row | {"id": None}, "it has no number"),
            (row | {"name": json.loads(rest[0])["name"]}, "contradict one another"),
            ({"id": 1}, "name: is missing"),
        ):
            self.files[name] = json.dumps(changed).encode() + b"\n" + b"".join(rest)
            self.refused(self.zipped(self.listed()), words)
        self.files[name] = b"{\n"
        self.refused(self.zipped(self.listed()), "animals.jsonl, line 1 is no JSON")


class Removed(Zips):
    def test_a_collection_is_thought_over_for_thirty_days_and_then_gone_with_its_photos_and_nothing_else(self) -> None:
        self.collection.is_demo = False
        self.collection.save()
        folder = self.photo.folder
        Print.objects.create(photo=self.photo, fingerprint=b"", brightness=0)
        others = {kind.label: kind.model._base_manager.count() for kind in KINDS}
        for kind in KINDS:
            others[kind.label] -= kind.rows_of(self.collection).count()
        answer = self.client.post("/keeping/remove/", {"typed": "Withy"})
        self.assertContains(answer, "Type “Withy Bed”", status_code=422)
        self.client.post("/keeping/remove/", {"typed": "withy bed"})
        self.assertContains(self.client.get("/animals/"), "is removed after")
        self.assertEqual(remove_due(timezone.now() + timedelta(days=DAYS_TO_THINK - 1)), 0)
        self.client.post("/keeping/keep/")
        self.assertNotContains(self.client.get("/animals/"), "is removed after")
        self.assertEqual(remove_due(timezone.now() + timedelta(days=DAYS_TO_THINK + 1)), 0)
        ask_removal(self.collection, self.keeper, "Withy Bed", timezone.now())
        self.assertEqual(remove_due(timezone.now() + timedelta(days=DAYS_TO_THINK + 1)), 1)
        self.assertFalse(Collection.objects.filter(key="withy-bed").exists())
        left = {kind.label: kind.model._base_manager.count() for kind in KINDS}
        self.assertEqual(left, others)
        self.assertFalse(Print.objects.exists())
        self.assertFalse(store().exists(f"{folder}/original.jpg"))

    def test_what_is_all_made_up_goes_at_once(self) -> None:
        self.collection.is_demo = True
        self.collection.save()
        page = self.client.post("/keeping/remove/", {"typed": "Withy Bed"}, follow=True)
        self.assertContains(page, "Withy Bed is gone")
        self.assertEqual(page.redirect_chain[-1][0], "/collections/")

    def test_an_invitation_to_one_that_is_to_go_leads_nowhere(self) -> None:
        one = invite_member(self.collection, self.keeper, "Night helper", "helper", 7, timezone.now())
        Removal.objects.create(
            collection=self.collection, asked_by=self.keeper, asked_at=NOW, due_at=timezone.now() + timedelta(days=9)
        )
        self.assertContains(self.client.get(f"/join/{one.token}/"), "is to be removed", status_code=404)

    def test_an_account_goes_after_thirty_days_and_its_name_stays_on_what_was_done(self) -> None:
        keeper = get_user_model().objects.get(pk=self.keeper.pk)
        keeper.set_password("marsh-mallow-tea")
        keeper.save()
        self.client.force_login(keeper)
        page = self.client.post("/account/remove/", {"password": "wrong"})
        self.assertContains(page, "That is not your password", status_code=422)
        with self.assertRaisesMessage(Refused, "only owner of Withy Bed"):
            ask_account_removal(keeper, "marsh-mallow-tea", timezone.now())
        other = get_user_model().objects.create_user("second owner")
        Membership.objects.create(user=other, collection=self.collection, role="owner")
        self.client.post("/account/remove/", {"password": "marsh-mallow-tea"})
        self.assertContains(self.client.get("/account/"), "Your account ends after")
        self.client.post("/account/keep/")
        self.assertFalse(Removal.objects.exists())
        self.client.post("/account/remove/", {"password": "marsh-mallow-tea"})
        self.assertEqual(remove_due(timezone.now() + timedelta(days=DAYS_TO_THINK + 1)), 1)
        keeper.refresh_from_db()
        self.assertFalse(keeper.is_active or keeper.has_usable_password() or keeper.memberships.exists())
        self.assertEqual(self.client.get("/account/").status_code, 302)
        self.assertTrue(Look.objects.filter(seen_by=keeper).exists())
