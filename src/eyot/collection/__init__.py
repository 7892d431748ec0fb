"""Who is here: collections, their members, the animals and what is known of their genes."""
