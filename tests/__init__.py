"""Tests: ``core`` (the computation), ``web`` (rows, views), ``journeys`` (a real browser), ``architecture``."""

from hypothesis import settings

settings.load_profile("ci")  # the same examples in each run, and no limit to how long one may take
