"""Exit codes."""

DONE = 0
TROUBLE = 1
"""`yapa check --strict` found some."""
BAD_INPUT = 2
NOT_CONVERGED = 3
FAULT = 70
"""A fault of Yapa itself: a sentence says where its details are."""
INTERRUPTED = 130
"""By Ctrl+C; what was found so far has been written."""
TERMINATED = 143
"""By SIGTERM; what was found so far has been written."""
