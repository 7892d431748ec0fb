"""Photos' pages and addresses."""
