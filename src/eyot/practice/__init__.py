"""Practice: made-up animals to be named, looks to be read, look-alikes to be told apart; and how well one's own eye does it."""
