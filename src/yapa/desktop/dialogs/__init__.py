"""What is asked beside the window."""
