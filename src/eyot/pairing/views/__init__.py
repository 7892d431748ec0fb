"""Pages of the planner, and of clutches that are there already."""
