"""The scene in space."""
