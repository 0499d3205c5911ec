"""The compiled engine: building it, keeping it, loading it, and calling it."""
