"""One small file a check."""
