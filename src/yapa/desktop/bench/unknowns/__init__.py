"""The numbers that may change."""
