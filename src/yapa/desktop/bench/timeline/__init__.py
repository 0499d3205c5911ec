"""What happens when."""
