"""Real workers on the real queue: forty photos, a worker that is killed, and a store that speaks S3."""

from __future__ import annotations

import io
import tempfile
import threading
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any, ClassVar
from unittest import TestCase
from urllib.parse import unquote, urlsplit
from xml.sax.saxutils import escape

import numpy as np
import psycopg
from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TransactionTestCase, override_settings
from PIL import Image
from procrastinate.contrib.django.models import ProcrastinateJob
from storages.backends.s3 import S3Storage

from eyot.collection.models import Collection
from eyot.config.stores import photo_store
from eyot.demo.scenario import NAME as DEMO
from eyot.hets.reckoning import JOB, order
from eyot.photos.models import Photo
from eyot.photos.queries import progress_of
from tests.demo_rows import EmptiedAfter, demo_collection
from tests.jobs import fail_jobs, forget_jobs, start_worker, stored_in
from tests.web.season_data import MembersClient

PATIENCE_SECONDS = 90
TELL_OF_PHOTOS = """
CREATE OR REPLACE FUNCTION tell_of_photos() RETURNS trigger LANGUAGE plpgsql AS
    $$ BEGIN PERFORM pg_notify('photos', ''); RETURN NULL; END $$;
CREATE OR REPLACE TRIGGER tell_of_photos AFTER UPDATE ON photos_photo
    FOR EACH STATEMENT EXECUTE FUNCTION tell_of_photos();
"""


def jpeg(number: int) -> bytes:
    """A picture of soft spots, each number's own: there is nothing in it that is long looked at."""
    held = io.BytesIO()
    spots = np.random.default_rng(number).integers(0, 255, (9, 12, 3), dtype=np.uint8)
    Image.fromarray(spots).resize((320, 240), Image.Resampling.BICUBIC).save(held, "JPEG", quality=70)
    return held.getvalue()


class Workers(EmptiedAfter, TransactionTestCase):
    client_class = MembersClient

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = folder.name
        self.enterContext(override_settings(STORAGES=stored_in(self.folder)))
        self.addCleanup(forget_jobs)
        self.listening = self.listen()
        demo_collection()
        users: Any = get_user_model().objects
        self.client.force_login(users.get(username="keeper"))

    def upload(self, count: int) -> None:
        sent = [SimpleUploadedFile(f"{number}.jpg", jpeg(number)) for number in range(count)]
        answer = self.client.post("/clutches/W-04/3/photos/?stage=egg", {"photos": sent}, follow=True)
        self.assertEqual(answer.status_code, 200)

    def listen(self) -> psycopg.Connection[Any]:
        """A connection of its own that hears of every photo that a worker changes."""
        with connection.cursor() as cursor:
            cursor.execute(TELL_OF_PHOTOS)
        found = psycopg.connect(**connection.get_connection_params() | {"cursor_factory": None}, autocommit=True)
        self.addCleanup(found.close)
        found.execute("LISTEN photos")
        return found

    def wait(self, done: Callable[[], bool]) -> None:
        """Until it is done, asked again at each change of a photo; fails when none comes for long."""
        while not done():
            if not list(self.listening.notifies(timeout=PATIENCE_SECONDS, stop_after=1)):
                self.fail(f"{[(job.status, job.task_name) for job in ProcrastinateJob.objects.all()]}")

    def worker(self, *more: str) -> Any:
        found = start_worker(self.folder, *more)
        self.addCleanup(lambda: found.poll() is None and (found.terminate(), found.wait(20)))
        return found

    def all_made(self) -> bool:
        return not any(photo.is_waiting for photo in Photo.objects.all())

    def test_forty_photos_at_once_are_all_there_though_a_worker_is_killed(self) -> None:
        self.upload(40)
        self.assertEqual(Photo.objects.count(), 40)
        first = self.worker()
        self.wait(lambda: Photo.objects.filter(sizes_done__gt=0).count() > 3)
        first.kill()
        first.wait()
        left = Photo.objects.filter(sizes_done=0).count()
        self.assertGreater(left, 0, "it was killed in the midst of its work")
        with connection.cursor() as cursor:
            cursor.execute("UPDATE procrastinate_workers SET last_heartbeat = last_heartbeat - interval '1 hour'")
        self.worker()
        self.wait(self.all_made)
        found = progress_of(list(Photo.objects.all()))
        self.assertEqual((found.total, found.done, found.stuck), (40, 40, []))
        for photo in Photo.objects.all():
            answer = self.client.get(f"/photos/{photo.pk}/{photo.page}.jpg")
            made = Image.open(io.BytesIO(b"".join(answer.streaming_content)))  # type: ignore[attr-defined]
            self.assertEqual(made.size, (320, 240))

    def test_two_workers_share_the_work(self) -> None:
        self.upload(8)
        self.worker()
        self.worker()
        self.wait(self.all_made)

    def test_what_was_forgotten_or_failed_is_ordered_when_a_worker_starts(self) -> None:
        self.upload(2)
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM procrastinate_jobs WHERE id = (SELECT min(id) FROM procrastinate_jobs)")
        fail_jobs()
        self.worker()
        self.wait(self.all_made)
        self.assertFalse(ProcrastinateJob.objects.filter(status="failed").exists())

    def test_what_a_killed_worker_was_at_holds_nobody_up_where_its_like_waits_already(self) -> None:
        self.upload(1)
        collection = Collection.objects.get(name=DEMO)
        order(collection, "of before")
        with connection.cursor() as cursor:
            cursor.execute(
                "WITH dead AS (INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now() - interval '1 hour') RETURNING id)"
                " UPDATE procrastinate_jobs SET status = 'doing', worker_id = dead.id FROM dead WHERE task_name = %s",
                [JOB],
            )
        order(collection, "of now")
        self.worker()
        self.wait(self.all_made)
        left = ProcrastinateJob.objects.filter(task_name=JOB)
        self.assertFalse([job.args for job in left if job.args["stamp"] == "of before"])


class Bucket(BaseHTTPRequestHandler):
    """As much of an S3-compatible service as a store of photos needs: a simulated stand-in on loopback."""

    kept: ClassVar[dict[str, bytes]] = {}

    def log_message(self, *args: object) -> None:
        """Says nothing."""

    @property
    def key(self) -> str:
        return unquote(urlsplit(self.path).path).removeprefix("/nest/")

    def answer(self, status: int, body: bytes = b"", kind: str = "application/xml") -> None:
        self.send_response(status)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(body)))
        self.send_header("ETag", '"x"')
        self.end_headers()
        if self.command != "HEAD":
            self.wfile.write(body)

    def do_PUT(self) -> None:
        data = self.rfile.read(int(self.headers.get("Content-Length", 0)))
        if "aws-chunked" in self.headers.get("Content-Encoding", ""):
            data = self.unchunked(data)
        self.kept[self.key] = data
        self.answer(200)

    @staticmethod
    def unchunked(data: bytes) -> bytes:
        found = b""
        while data:
            head, _, data = data.partition(b"\r\n")
            size = int(head.split(b";")[0], 16)
            if size == 0:
                break
            found, data = found + data[:size], data[size + 2 :]
        return found

    def do_GET(self) -> None:
        if "list-type" in self.path or self.key in ("/nest", "", "nest"):
            names = "".join(f"<Contents><Key>{escape(key)}</Key><Size>1</Size></Contents>" for key in self.kept)
            body = f"<ListBucketResult><IsTruncated>false</IsTruncated>{names}</ListBucketResult>"
            self.answer(200, body.encode())
        elif self.key in self.kept:
            self.answer(200, self.kept[self.key], "image/jpeg")
        else:
            self.answer(404)

    do_HEAD = do_GET  # noqa: N815

    def do_DELETE(self) -> None:
        self.kept.pop(self.key, None)
        self.answer(204)


class Stores(TestCase):
    def test_addresses_are_folders_or_buckets(self) -> None:
        self.assertEqual(photo_store("/srv/photos")["OPTIONS"]["location"], "/srv/photos")
        options = photo_store("s3://nest/of/photos?endpoint=http://127.0.0.1:9&region=eu-1")["OPTIONS"]
        self.assertEqual(
            [options[key] for key in ("bucket_name", "location", "endpoint_url", "region_name")],
            ["nest", "of/photos", "http://127.0.0.1:9", "eu-1"],
        )
        with self.assertRaisesRegex(ValueError, "names no bucket"):
            photo_store("s3://")

    def test_files_go_to_a_bucket_and_come_back(self) -> None:
        server = ThreadingHTTPServer(("127.0.0.1", 0), Bucket)
        thread = threading.Thread(target=server.serve_forever, daemon=True)
        thread.start()
        self.addCleanup(thread.join)
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        setting = photo_store(f"s3://nest/photos?endpoint=http://127.0.0.1:{server.server_port}")
        store = S3Storage(**setting["OPTIONS"], access_key="sample", secret_key="sample")
        for data in (b"first", b"second"):
            self.assertEqual(store.save("1/a/page-1.jpg", ContentFile(data)), "1/a/page-1.jpg")
            with store.open("1/a/page-1.jpg") as file:
                self.assertEqual(file.read(), data)
        self.assertEqual(Bucket.kept["photos/1/a/page-1.jpg"], b"second")
        self.assertTrue(store.exists("1/a/page-1.jpg"))
        self.assertFalse(store.exists("1/a/page-2.jpg"))
        self.assertEqual(store.listdir("1/a")[1], ["page-1.jpg"])
        store.delete("1/a/page-1.jpg")
        self.assertFalse(store.exists("1/a/page-1.jpg"))
        store.connection.meta.client.close()
