"""How Chromium is begun, and the two screens that pages are looked at on. Needs no Django."""

from __future__ import annotations

from pathlib import Path
from typing import Any

PROGRAMS = ("/usr/bin/chromium-headless-shell", "/usr/bin/chromium")
"""Debian's Chromium without a window takes half the processor of the whole one; where it is not there, that one serves."""
PROGRAM = next((path for path in PROGRAMS if Path(path).exists()), PROGRAMS[-1])
FLAGS = ["--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking"]
FLAGS += ["--disable-component-update", "--disable-sync"]
DESK: dict[str, Any] = {"viewport": {"width": 1280, "height": 800}}
PHONE: dict[str, Any] = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}
