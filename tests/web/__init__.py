"""Rows, actions, views: without a browser."""
