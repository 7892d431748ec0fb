"""The inbox: an evening's photos at once, filed by the cards in them; what is not sure waits for a hand."""
