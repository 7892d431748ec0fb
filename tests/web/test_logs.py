"""Logs: a line of JSON for every request and fault, with its number, and nothing of what is kept."""

from __future__ import annotations

import io
import json
import logging
from typing import Any
from unittest.mock import patch

from django.test import override_settings

from eyot.shared.logs import JsonLines, request_number
from tests.web.season_data import SeasonCase


class Lines(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.out = io.StringIO()
        handler = logging.StreamHandler(self.out)
        handler.setFormatter(JsonLines())
        for name, level in (("eyot", logging.INFO), ("django.request", logging.ERROR)):
            logger = logging.getLogger(name)
            self.addCleanup(logger.setLevel, logger.level)
            self.addCleanup(logger.removeHandler, handler)
            self.addCleanup(setattr, logger, "propagate", logger.propagate)
            logger.setLevel(level)
            logger.propagate = False
            logger.addHandler(handler)

    def lines(self) -> list[dict[str, Any]]:
        return [json.loads(line) for line in self.out.getvalue().splitlines()]

    def test_a_request_is_told_by_its_pattern_with_the_number_that_the_answer_says(self) -> None:
        answer = self.client.get("/clutches/W-04/?q=secret")
        [line] = self.lines()
        self.assertEqual(line["request"], answer["X-Request-Id"])
        told = (line["method"], line["status"], line["page"], line["level"])
        self.assertEqual(told, ("GET", 200, "clutches/<slug:code>/", "info"))
        for kept in ("W-04", "withy", "secret", "keeper"):
            self.assertNotIn(kept, self.out.getvalue())
        self.assertEqual(request_number(), "")

    def test_a_fault_is_told_by_kind_and_place_and_the_page_shows_the_number(self) -> None:
        self.client.raise_request_exception = False
        with patch("eyot.season.views.season.clutches_of_season", side_effect=ValueError("Rush has died")):
            page = self.client.get("/in/withy-bed/")
        fault, request = self.lines()
        self.assertEqual((fault["exception"], fault["level"], request["status"]), ("ValueError", "error", 500))
        self.assertEqual(fault["request"], request["request"])
        self.assertContains(page, request["request"], status_code=500)
        self.assertTrue(any("season.py" in step for step in fault["where"]))
        for kept in ("Rush", "died", "withy-bed"):
            self.assertNotIn(kept, self.out.getvalue())

    def test_a_number_is_taken_from_a_proxy_of_ours_only(self) -> None:
        given = {"X-Request-Id": "abcdef-0123456789"}
        self.assertNotEqual(self.client.get("/alive", headers=given)["X-Request-Id"], given["X-Request-Id"])
        with override_settings(BEHIND_PROXY=True):
            self.assertEqual(self.client.get("/alive", headers=given)["X-Request-Id"], given["X-Request-Id"])
            bad = self.client.get("/alive", headers={"X-Request-Id": "x\nforged"})["X-Request-Id"]
        self.assertRegex(bad, r"^[0-9a-f]{12}$")
