"""Pages of the season: the timeline, a clutch's record, an egg's record, the calendar."""
