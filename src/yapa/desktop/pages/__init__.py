"""What fills the window: one file and one line in the registry a page."""
