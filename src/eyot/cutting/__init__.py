"""Cutting: one egg after another on the phone, and the sheet of all eggs after the last. No rules of genetics."""
