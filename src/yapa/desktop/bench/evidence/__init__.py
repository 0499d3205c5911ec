"""Bodies and what is known of their motion."""
