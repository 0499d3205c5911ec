"""Whether there is a display to open a window on. Qt ends the process where there is none, without a word a person can use."""

from __future__ import annotations

import ctypes
import os

from yapa.errors import bad_input


def check_display() -> None:
    """Refuse to open a window where none can be.

    Raises
    ------
    InputError
        If no display is named, or the one that is does not answer.
    """
    if os.environ.get("QT_QPA_PLATFORM", "xcb").split(":")[0] not in ("xcb", "wayland"):
        return
    remedy = "a desktop; the commands of `yapa --help` need none, and `yapa demo --headless FOLDER` runs the whole example"
    if os.environ.get("WAYLAND_DISPLAY"):
        return
    name = os.environ.get("DISPLAY")
    if not name:
        raise bad_input("the window", "no display (DISPLAY and WAYLAND_DISPLAY are not set)", remedy)
    try:
        xcb = ctypes.CDLL("libxcb.so.1")
    except OSError:
        return  # Qt says what is missing
    xcb.xcb_connect.restype = ctypes.c_void_p
    connection = ctypes.c_void_p(xcb.xcb_connect(name.encode(), None))
    failed = xcb.xcb_connection_has_error(connection)
    xcb.xcb_disconnect(connection)
    if failed:
        raise bad_input("the window", f"a display that does not answer (DISPLAY={name})", remedy)
