"""The three ways in which a run carries its islands, and the run itself."""
