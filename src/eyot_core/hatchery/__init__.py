"""Days and stages: when eggs are due, when a hatchling can be looked at."""
