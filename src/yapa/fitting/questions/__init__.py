"""Questions that people ask of a case: how far, which number, how sure, which way, how much more."""
