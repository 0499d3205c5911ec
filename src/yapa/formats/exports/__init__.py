"""What Yapa hands over: one file a format."""
