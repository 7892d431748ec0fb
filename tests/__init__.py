"""Tests: ``core`` (the computation), ``web`` (rows, views), ``journeys`` (a real browser), ``architecture``."""
