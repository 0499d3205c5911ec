"""Where shapes are, where they are nearest, and when they meet."""
