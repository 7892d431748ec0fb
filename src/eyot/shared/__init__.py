"""Base templates, small template parts, and what every page needs. Nothing of the field belongs here."""
