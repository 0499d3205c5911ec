"""The bench, in the folders of what it shows."""
