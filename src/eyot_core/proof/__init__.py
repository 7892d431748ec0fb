"""What breeding, marks and tests prove of genes that do not show: carriers, pedigrees, and ways of inheritance."""
