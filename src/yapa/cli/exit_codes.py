"""Exit codes."""

DONE = 0
TROUBLE = 1
"""`yapa check --strict` found some."""
BAD_INPUT = 2
NOT_CONVERGED = 3
INTERRUPTED = 130
"""By Ctrl+C; what was found so far has been written."""
TERMINATED = 143
"""By SIGTERM; what was found so far has been written."""
