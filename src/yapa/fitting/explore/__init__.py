"""Maps of outcomes over numbers."""
