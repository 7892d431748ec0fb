"""The reference: genes, combinations and look-alikes as the model has them, drawn; with a keeper's own photos beside them."""
