"""What is read off a run in compiled code."""
