"""Pages and fragments of the bench: parse, call, render."""
