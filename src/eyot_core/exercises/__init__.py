"""Practice: made-up animals whose genes are known, what a picture of one could tell, and how well an eye read it."""
