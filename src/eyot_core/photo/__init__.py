"""Photos made comparable: their light. Pixels in, pixels and figures out; no files, no database."""
