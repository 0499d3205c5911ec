"""How sure the numbers are, what explains the residuals, and what would tell more."""
