"""The line-up: the hatchlings of a clutch as strips at one scale and in one light, with drawings laid between them."""
