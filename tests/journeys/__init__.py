"""The real interface in a real browser."""
