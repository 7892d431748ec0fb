"""``django work``: does the jobs of photos until it is told to stop."""

from __future__ import annotations

import asyncio
import os
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from procrastinate.contrib.django import app

from eyot_core.photo.taking import BEHIND

from eyot.photos.actions import order_outdated, order_unsought
from eyot.photos.processing import look_for_originals
from eyot.photos.tasks import STALLED_SECONDS, order_forgotten, rescue_stalled
from eyot.shared.jobs import forget_failures


class Command(BaseCommand):
    """A worker. As many as are wanted may run, on any machine that reaches the database and the store of photos."""

    requires_system_checks = []  # "bin/eyot check" runs them; they would import every page, of which a worker needs none
    help = "Makes sizes, strips and measures of photos as they are ordered. Needs EYOT_DATABASE and EYOT_PHOTOS."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--jobs", type=int, default=1, help="how many jobs at once")
        parser.add_argument(
            "--silent",
            type=float,
            default=STALLED_SECONDS,
            help="seconds of silence after which a worker counts as dead",
        )

    def handle(self, *args: Any, **options: Any) -> None:
        os.nice(BEHIND)
        forget_failures()
        order_forgotten()
        order_outdated()
        order_unsought()
        look_for_originals()

        async def work() -> None:
            worker_app = app.with_connector(app.connector.get_worker_connector())  # type: ignore[attr-defined]
            with app.replace_connector(worker_app.connector):
                async with app.open_async():
                    await rescue_stalled(options["silent"])
                    await app.run_worker_async(
                        concurrency=options["jobs"],
                        fetch_job_polling_interval=1.0,
                        update_heartbeat_interval=min(10.0, options["silent"] / 3),
                        stalled_worker_timeout=options["silent"],
                        delete_jobs="successful",
                        shutdown_graceful_timeout=10.0,
                    )

        asyncio.run(work())
