"""Projects over generations: a goal, a plan that follows the record, what if, and which hatchling brings it on."""
