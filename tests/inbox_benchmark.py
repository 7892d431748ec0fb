"""Three hundred photos of twelve megapixels, of all hatchlings of three clutches, dropped onto the inbox at once in a real browser, with
one worker and six people at their pages meanwhile. ``bin/eyot bench`` runs it and prints the table of docs/benchmarks.md.
"""

from __future__ import annotations

import os
import re
import sys
import tempfile
import threading
import time
from datetime import datetime
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect, sync_playwright

from tests.chromium import DESK, FLAGS, PROGRAM
from tests.evening import evening
from tests.load_benchmark import Load, keep_reading, keep_weighing, log_in
from tests.started import Started

CLUTCHES = ("W-02", "W-03", "W-04")
PHOTOS, WIDTH, PEOPLE = 300, 4000, 6
EVENING = datetime(2026, 6, 11, 18, 0)  # noqa: DTZ001  a camera's clock knows no zone
PATIENCE_MS = 3_000_000


def numbers_of(load: Load) -> list[str]:
    """The numbers of all hatchlings of the clutches, as the bench tells them."""
    found, session = [], load.session()
    for clutch in CLUTCHES:
        for number in range(1, 10):
            answer = session.get(f"{load.address}clutches/{clutch}/{number}/", timeout=60)
            code = re.search(rf"\d\d-{clutch.replace('-', '')}-{number}\b", answer.text)
            if answer.status_code == 200 and code:
                found.append(code[0])
    return found


def files_in(folder: Path, numbers: list[str]) -> dict[str, str]:
    """Writes the evening's files; whose photo each is, cards alone left out."""
    each = -(-PHOTOS // len(numbers))
    shots = [shot for shot, _ in zip(evening(numbers, each, EVENING, WIDTH), range(PHOTOS), strict=False)]
    for shot in shots:
        (folder / shot.name).write_bytes(shot.jpeg)
    return {shot.name: shot.of for shot in shots if not shot.is_card}


def filed(page: Page) -> dict[str, str]:
    """With whom each photo was filed, as the inbox tells it."""
    rows = page.eval_on_selector_all(
        ".filed-photos button",
        """buttons => buttons.map((one) => [one.ariaLabel, one.closest("li").querySelector(".filed-egg").textContent])""",
    )
    told = {}
    for label, egg in rows:
        number, clutch = egg.split()
        told[label.split()[1]] = f"{clutch.replace('-', '')}-{number}"
    return told


def dropped(page: Page, load: Load, folder: Path, whose: dict[str, str]) -> tuple[float, float]:
    """Seconds until everything was sent, and until everything was filed or waited."""
    page.goto(f"{load.address}inbox/")
    begun = time.perf_counter()
    page.locator("[data-choose]").first.set_input_files(sorted(folder.iterdir()))
    expect(page.locator("[data-sending-words]")).to_have_text(
        re.compile(rf"{PHOTOS} of {PHOTOS}$"), timeout=PATIENCE_MS
    )
    sent = time.perf_counter() - begun
    expect(page.locator(".inbox-told")).not_to_contain_text("to be looked at", timeout=PATIENCE_MS)
    expect(page.locator(".inbox-told")).to_contain_text(re.compile(rf"{len(whose)}\s*filed"), timeout=60_000)
    return sent, time.perf_counter() - begun


def main() -> int:
    """Runs it, and prints what was seen."""
    with tempfile.TemporaryDirectory(prefix="eyot-inbox-") as base:
        os.chmod(base, 0o755)
        pictures = Path(base) / "pictures"
        pictures.mkdir()
        run = Started(Path(base) / "data")
        try:
            load = Load(run.address(), log_in(run))
            whose = files_in(pictures, numbers_of(load))
            threads = [threading.Thread(target=keep_reading, args=(load, seed)) for seed in range(PEOPLE)]
            threads.append(threading.Thread(target=keep_weighing, args=(load, Path(base) / "data")))
            for thread in threads:
                thread.start()
            load.ended.wait(60)
            load.phase = "beside the inbox"
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path=PROGRAM, chromium_sandbox=False, args=FLAGS)
                context = browser.new_context(**DESK)
                context.add_cookies(
                    [{"name": name, "value": value, "url": load.address} for name, value in load.cookies.items()]
                )
                page = context.new_page()
                sent, all_filed = dropped(page, load, pictures, whose)
                seen = filed(page)
                browser.close()
            load.ended.set()
            for thread in threads:
                thread.join()
        finally:
            run.close()
    wrong = [name for name, code in seen.items() if not whose.get(name, "").endswith(code)]
    tell(load, len(whose), len(seen), wrong, sent, all_filed)
    return int(bool(wrong or load.wrong or len(seen) < len(whose)))


def tell(load: Load, animals: int, filed_ones: int, wrong: list[str], sent: float, all_filed: float) -> None:
    """The table, and what went wrong."""
    print(
        f"\n{PHOTOS} photos of twelve megapixels, {animals} of them of animals: {filed_ones} filed, {len(wrong)} wrongly {wrong[:5]}"
    )
    print(f"all sent within {sent:.0f} s, all filed within {all_filed:.0f} s: {all_filed / PHOTOS:.2f} s a photo")
    print(
        "\n| | pages | half within | 95 % within | web process at most | decoder | worker |\n|---|---|---|---|---|---|---|"
    )
    for phase, seconds in load.seconds.items():
        half, most = np.percentile(seconds, [50, 95]) * 1000
        kinds = [max(load.memory[phase, kind], default=0) for kind in ("web server", "decoder", "worker")]
        words = " | ".join(f"{one:.0f} MB" for one in kinds)
        print(f"| {phase} | {len(seconds):,} | {half:.0f} ms | {most:.0f} ms | {words} |")
    if load.wrong:
        print(f"wrong answers: {load.wrong[:5]}")


if __name__ == "__main__":
    sys.exit(main())
