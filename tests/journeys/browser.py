"""A real browser on the real server: what every journey starts from."""

from __future__ import annotations

import asyncio
import os
import re
import socket
import tempfile
import threading
from collections import defaultdict
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from functools import cache
from multiprocessing.util import Finalize
from pathlib import Path
from typing import Any, Literal

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.staticfiles.finders import AppDirectoriesFinder
from django.core.servers.basehttp import ThreadedWSGIServer
from django.core.signals import request_finished, request_started
from django.test import Client, LiveServerTestCase, override_settings
from django.test.testcases import LiveServerThread, QuietWSGIRequestHandler
from playwright.sync_api import Browser, BrowserContext, Page, WebError, expect, sync_playwright
from whitenoise import WhiteNoise

from eyot.collection.models import Collection
from eyot.demo.scenario import NAME as DEMO
from tests.chromium import DESK, FLAGS, PROGRAM
from tests.demo_rows import PASSWORD, EmptiedAfter, Rows, demo_collection
from tests.jobs import do_jobs, forget_jobs, forget_waiting_jobs, stored_in, working

PATIENCE_MS = 60_000
"""How long a browser is waited for: a busy machine fails no test."""
WITHOUT_HURRY = "AbortSignal.timeout = () => new AbortController().signal"
"""What the pages give up after a while is waited for in tests."""
UNPAINTED = """
    const unpainted = new CSSStyleSheet();
    unpainted.replaceSync("body { opacity: 0 }");
    document.adoptedStyleSheets = [unpainted];
"""
"""What nobody looks at is laid out, pressed and read, and not painted, which took a fifth of the browser's processor."""
NOTHING_PRETENDED: dict[str, Any] = dict.fromkeys(("reduced_motion", "forced_colors", "contrast"), "null")
"""Where the library pretends a setting of the system, the browser styles each page twice: as it is left, and as the next one comes."""
WITHOUT_FRAMES = "--disable-threaded-compositing"
"""So begun a browser without a window lays out and never draws: for pages that are only read. Nothing can be pressed in it."""
NARROWEST = 320
"""Of small phones, and of a desk at four times the size (WCAG 1.4.10), in pixels."""
WIDTH = """() => {
    const parts = [...document.querySelectorAll("[data-to-section]")], shown = parts.find((part) => part.ariaPressed === "true");
    const widths = [...parts, shown].map((part) => { part?.click(); return document.documentElement.scrollWidth; });
    return Math.max(...widths);
}"""
DRAWING = re.compile(r"/drawings/.*\.svg$")
BLANK = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1200 92"/>'
"""Stands for drawings where nobody looks at what they show: some pages have forty, of up to 60 kB each."""
AXE = Path(__file__).parent / "vendor/axe.min.js"


class UnderWay:
    """Requests that the live server of this process has begun and not finished."""

    def __init__(self) -> None:
        self.lock = threading.Condition()
        self.count = 0
        request_started.connect(self.begun, weak=False)
        request_finished.connect(self.ended, weak=False)

    def begun(self, **more: object) -> None:
        """One more."""
        with self.lock:
            self.count += 1

    def ended(self, **more: object) -> None:
        """One less."""
        with self.lock:
            self.count -= 1
            self.lock.notify_all()

    def forget(self) -> None:
        """Counts from here on; tests without a browser may have left requests unfinished."""
        with self.lock:
            self.count = 0

    def wait_for_none(self) -> None:
        """Until all are finished, at most twenty seconds."""
        with self.lock:
            self.lock.wait_for(lambda: self.count <= 0, timeout=20)


UNDER_WAY = UnderWay()
expect.set_options(timeout=PATIENCE_MS)


class QuickStatic(WhiteNoise):
    """Static files of all applications, looked up once and by the library that serves them to keepers."""

    def __init__(self, application: Any) -> None:
        super().__init__(application, max_age=3600)
        for storage in AppDirectoriesFinder().storages.values():
            self.add_files(storage.location, settings.STATIC_URL)


class BlankDrawings(QuickStatic):
    """And a blank for every drawing, by the server: a browser whose requests are looked at by a test keeps no files from page to page."""

    def __call__(self, environ: dict[str, Any], start_response: Any) -> Iterable[bytes]:
        if not DRAWING.search(environ["PATH_INFO"]):
            answer: Iterable[bytes] = super().__call__(environ, start_response)
            return answer
        start_response("200 OK", [("Content-Type", "image/svg+xml"), ("Cache-Control", "max-age=3600")])
        return [BLANK]


class Chromium:
    """One for all journeys of a process, and one more where a class has flags. Its event loop counts as running while a class has it, and
    not to the tests between."""

    def __init__(self) -> None:
        playwright = sync_playwright().start()
        self.programs = playwright.chromium
        self.begun: dict[tuple[str, ...], Browser] = {}
        self.loop = asyncio.get_running_loop()
        self.stop = playwright.stop
        Finalize(None, self.close, exitpriority=1)

    @contextmanager
    def had(self, flags: tuple[str, ...] = ()) -> Iterator[Browser]:
        """The browser, for as long as the block runs."""
        asyncio._set_running_loop(self.loop)
        try:
            if flags not in self.begun:
                args = [*FLAGS, *flags]
                self.begun[flags] = self.programs.launch(executable_path=PROGRAM, chromium_sandbox=False, args=args)
            yield self.begun[flags]
        finally:
            asyncio._set_running_loop(None)

    def close(self) -> None:
        """As the process ends."""
        with self.had():
            for browser in self.begun.values():
                browser.close()
            self.stop()


CHROMIUM = cache(Chromium)


@cache
def own_port(*, drawings: bool) -> int:
    """Where all live servers of a process listen, one after the other, so that a browser has the static files of one for the next; those
    with drawings elsewhere. Not among the ports that a system gives to whoever asks for any."""
    first = 25_000 if drawings else 20_000
    for port in range(first + os.getpid() % 4_000, first + 5_000):
        with socket.socket() as probe, suppress(OSError):
            probe.bind(("127.0.0.1", port))
            return port
    raise OSError("no port is free")


LENT: defaultdict[str, list[BrowserContext]] = defaultdict(list)
"""Browsers of one person that no test has at the moment, by what they were asked for as."""


class SamePort(LiveServerThread):
    """May listen where the server of the class before did, though connections to that one are still closing."""

    def _create_server(self, connections_override: Any = None) -> ThreadedWSGIServer:
        return ThreadedWSGIServer(
            (self.host, self.port), QuietWSGIRequestHandler, connections_override=connections_override
        )


class Journey(EmptiedAfter, LiveServerTestCase):
    """Chromium once for the process; the demo collection anew for each test."""

    server_thread_class = SamePort
    with_worker = False
    with_drawings = False
    """Else every drawing is blank."""
    flags: tuple[str, ...] = ()
    is_seen = False
    """Does somebody look at what the browser shows?"""
    photo_folder: str
    chromium: Browser
    collection: Collection

    @classmethod
    def setUpClass(cls) -> None:
        before = os.environ.get("DJANGO_ALLOW_ASYNC_UNSAFE")
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
        cls.addClassCleanup(_restore, before)
        folder = tempfile.TemporaryDirectory(prefix="eyot-photos-")
        cls.addClassCleanup(folder.cleanup)
        cls.photo_folder = folder.name
        cls.enterClassContext(
            override_settings(STORAGES=stored_in(folder.name), ARRIVING_ROOT=f"{folder.name}/arriving")
        )
        if cls.with_worker:
            cls.addClassCleanup(forget_jobs)
            cls.enterClassContext(working())
        cls.port = own_port(drawings=cls.with_drawings)
        cls.static_handler = QuickStatic if cls.with_drawings else BlankDrawings
        super().setUpClass()
        cls.chromium = cls.enterClassContext(CHROMIUM().had(cls.flags))

    def setUp(self) -> None:
        UNDER_WAY.forget()
        self.collection = self.demo()

    def demo(self) -> Collection:
        """The demo collection that each test begins with."""
        return demo_collection()

    def _fixture_teardown(self) -> None:
        """Empties the tables once no request is under way: a page that polls may have left one behind."""
        UNDER_WAY.wait_for_none()
        forget_waiting_jobs()
        super()._fixture_teardown()

    def context(self, **how: Any) -> BrowserContext:
        """A browser of one person; an error of a script fails the test. After the test it is as new for the next one that asks for its
        like, but for the static files, which it need not load again."""
        how = {"service_workers": "block", "color_scheme": "null"} | (how or DESK)
        kind = f"{self.flags} {how}"
        found = LENT[kind].pop() if LENT[kind] else self._new_context(how)

        def failed(error: WebError) -> None:
            self.fail(f"a script failed: {error.error}")

        found.on("weberror", failed)
        self.addCleanup(self._give_back, found, kind)
        self.addCleanup(found.remove_listener, "weberror", failed)
        return found

    def _new_context(self, how: dict[str, Any]) -> BrowserContext:
        found = self.chromium.new_context(**NOTHING_PRETENDED, **how)
        found.set_default_timeout(PATIENCE_MS)
        found.add_init_script(WITHOUT_HURRY)
        if not self.is_seen:
            found.add_init_script(UNPAINTED)
        return found

    def _give_back(self, context: BrowserContext, kind: str) -> None:
        """Its last page is emptied, not closed for another, whose beginning takes 80 ms of processor."""
        last, *others = context.pages or [context.new_page()]
        for page in others:
            page.close()
        context.set_offline(False)
        last.goto("about:blank")
        context.clear_cookies()
        kept = {"origin": self.live_server_url, "storageTypes": "indexeddb,local_storage,cache_storage,websql"}
        context.new_cdp_session(last).send("Storage.clearDataForOrigin", kept)
        last.close()
        LENT[kind].append(context)

    def member(self, name: str = "keeper", **how: Any) -> Page:
        """An empty page of somebody who is logged in. How one logs in is a journey of its own."""
        users: Any = get_user_model().objects
        client = Client()
        client.force_login(users.get(username=name))
        context = self.context(**how)
        session = client.cookies[settings.SESSION_COOKIE_NAME].value
        context.add_cookies([{"name": settings.SESSION_COOKIE_NAME, "value": session, "url": self.live_server_url}])
        return context.new_page()

    def wait_until_sent(self, page: Page) -> None:
        """Until nothing waits on the device any more."""
        expect(page.locator("body")).to_have_attribute("data-unsent", "0", timeout=PATIENCE_MS)

    def log_in(self, page: Page, name: str = "keeper") -> None:
        """Fills the login that the page shows."""
        page.get_by_label("Name").fill(name)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Log in").click()
        page.wait_for_url(lambda url: "/login" not in url)

    def visit(self, page: Page, path: str) -> None:
        """Another page of the application."""
        page.goto(self.live_server_url + path)


class WithPhotos(Journey):
    """With photos that are made once for the class, since its tests change none of the files; their rows are put back for each test."""

    with_photos: Rows | None = None

    def demo(self) -> Collection:
        if self.with_photos:
            self.with_photos.put_back()
            return Collection.objects.get(name=DEMO)
        collection = super().demo()
        self.add_photos(collection)
        do_jobs()
        type(self).with_photos = Rows()
        return collection

    def add_photos(self, collection: Collection) -> None:
        """Adds the photos and what is marked in them; what follows of that is then done."""
        raise NotImplementedError


def level_of(look: str, level: str) -> str:
    """Where a level of a look is chosen on the bench, as a selector."""
    return f'.look[data-look="{look}"] [data-level="{level}"]'


def _restore(before: str | None) -> None:
    if before is None:
        os.environ.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)
    else:
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = before


def offences(page: Page, *settings: tuple[dict[str, Any], Literal["light", "dark"]]) -> list[str]:
    """What the accessibility checker holds against a page in each size and scheme, WCAG 2.2 AA: scheme, rule and place; and where it is
    wider than a screen. After the first only what hangs on them is asked again."""
    all_rules = {"type": "tag", "values": ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]}
    of_looks = {
        "type": "rule",
        "values": ["color-contrast", "target-size", "link-in-text-block", "scrollable-region-focusable"],
    }
    page.evaluate("document.adoptedStyleSheets = []")
    page.evaluate(AXE.read_text())
    found = []
    for number, (size, scheme) in enumerate(settings):
        page.set_viewport_size(size["viewport"])
        page.emulate_media(color_scheme=scheme)
        held = page.evaluate(
            "asked => axe.run(document, {preload: false, runOnly: asked, resultTypes: ['violations']})"
            ".then((all) => all.violations)",
            of_looks if number else all_rules,
        )
        found += [f"{scheme}, {row['id']}: {node['html'][:120]}" for row in held for node in row["nodes"]]
    found += [words for width in (DESK["viewport"]["width"], NARROWEST) if (words := too_wide(page, width))]
    page.set_viewport_size(settings[-1][0]["viewport"])
    return found


def too_wide(page: Page, width: int) -> str:
    """By how much a page is wider than a screen of some pixels, with each of its parts where a phone shows one at a time."""
    page.set_viewport_size({"width": width, "height": 800})
    wide = page.evaluate(WIDTH)
    return f"{wide} pixels wide on a screen of {width}" if wide > width else ""
