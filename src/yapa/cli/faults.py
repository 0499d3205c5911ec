"""What is said of a fault of Yapa itself on the command line: one sentence, and where its details were written."""

from __future__ import annotations

import os
import tempfile
import traceback

from yapa.errors import shortened


def fault_in_words(error: BaseException) -> str:
    """Return a fault as one sentence; its traceback goes to a file of its own, which the sentence names.

    Parameters
    ----------
    error : what was raised
    """
    words = shortened(f"{type(error).__name__}: {error}", 200)
    try:
        handle, details = tempfile.mkstemp(prefix="yapa-fault-", suffix=".txt")
        with os.fdopen(handle, "w", encoding="utf-8", errors="replace") as file:
            file.write("".join(traceback.format_exception(error)))
        where = f"the details are in {details}"
    except OSError:
        where = "its details could not be written"
    return f"something unexpected went wrong ({words}); {where}"
