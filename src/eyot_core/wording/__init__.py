"""Words and figures as keepers read them: names of combinations, labels, chances."""
