"""Where compiled kernels live: a folder named by everything that decides their content.

numba names a cached kernel by its own file only, so an edited callee in another file would be
missed. The folder's key is a hash of all kernel sources, the numba version, the Python version
and the ``NUMBA_*`` options; a change of any makes a new folder, and nothing in it is ever stale.
"""

from __future__ import annotations

import hashlib
import os
import platform
import re
import shutil
import sys
from importlib.metadata import version
from pathlib import Path

import platformdirs

from yapa.errors import bad_input

KERNELS = Path(__file__).parents[1] / "kernels"
SAME_CODE = ("NUMBA_CACHE_DIR", "NUMBA_CACHE_LOCATOR_CLASSES", "NUMBA_DISABLE_ERROR_MESSAGE_HIGHLIGHTING")
"""Options of numba that change nothing in what is compiled."""

LAYOUT = b"kernels of all checkouts in one folder"
"""How the folder is laid out: a folder of another layout is not this one."""
LOCATORS = ("yapa.engine.jit.numba_cache.SourcesLocator,UserProvidedCacheLocator,InTreeCacheLocator,UserWideCacheLocator,"
            "IPythonCacheLocator,ZipCacheLocator")
"""who says where numba keeps a function: for kernels the first, for any other what numba does by itself"""


def cache_key(folder: Path = KERNELS) -> str:
    """Return hash of the kernel sources in a folder and of the compiler that reads them.

    Parameters
    ----------
    folder : the folder
    """
    digest = hashlib.sha256(LAYOUT)
    for path in sorted(folder.rglob("*.py")):
        digest.update(str(path.relative_to(folder)).encode())
        digest.update(path.read_bytes())
    digest.update(f"{version('numba')} {sys.version} {platform.machine()}".encode())
    for key in sorted(os.environ):
        if key.startswith("NUMBA_") and key not in SAME_CODE:
            digest.update(f"{key}={os.environ[key]}".encode())
    return digest.hexdigest()[:20]


def cache_folder() -> Path:
    """Return the folder for the present sources, inside the user's cache directory."""
    return Path(platformdirs.user_cache_dir("yapa")) / "kernels" / cache_key()


def private_cache() -> Path:
    """:func:`cache_folder`, made if it is not there: one's own, closed to others, since what is in it is run.

    Returns
    -------
    The folder.

    Raises
    ------
    InputError
        If it cannot be made, belongs to somebody else, or others may write to it.
    """
    folder = cache_folder()
    for level in (folder.parent.parent, folder.parent, folder):
        try:
            level.mkdir(mode=0o700, parents=True, exist_ok=True)
            facts = level.stat()
        except OSError as error:
            raise bad_input(str(level), error.strerror or "a folder that cannot be made",
                            "a folder for the compiled engine; set XDG_CACHE_HOME to one that can be written") from None
        if facts.st_uid != os.geteuid():
            raise bad_input(str(level), f"a folder of user {facts.st_uid}", "one's own: compiled code in it would be run; set "
                            "XDG_CACHE_HOME to a folder of your own")
        if facts.st_mode & 0o022:
            raise bad_input(str(level), "a folder that others may write to", "a folder only for oneself (mode 0700): compiled code "
                            "in it would be run; remove it, or set XDG_CACHE_HOME to another")
        if facts.st_mode & 0o077:
            level.chmod(0o700)
    return folder


def point_numba_at_cache() -> Path:
    """Make numba keep compiled kernels in :func:`private_cache`. Works before and after its import.

    Returns
    -------
    The folder.
    """
    folder = private_cache()
    os.environ["NUMBA_CACHE_DIR"] = str(folder)
    os.environ["NUMBA_CACHE_LOCATOR_CLASSES"] = LOCATORS
    if "numba" in sys.modules:
        import numba

        numba.config.CACHE_DIR = str(folder)  # type: ignore[attr-defined]
        numba.config.CACHE_LOCATOR_CLASSES = LOCATORS  # type: ignore[attr-defined]
    return folder


def compiled_share() -> float:
    """Return how much of the engine is compiled: of the kernels that stand on their own, those whose object file is there."""
    names = [f"{path.stem}.{name}" for path in sorted(KERNELS.rglob("*.py"))
             for name in re.findall(r"@(?:far|entry)\((?:[^@]*?)\)\ndef (\w+)", path.read_text())]
    have = {".".join(file.stem.rsplit(".", 2)[1:]) for file in cache_folder().rglob("*.o")}
    return sum(name in have for name in names) / max(len(names), 1)


def forget_old_caches(keep: int = 3) -> None:
    """Remove the folders of sources that are no more, but for the newest few.

    Parameters
    ----------
    keep : how many of the newest stay
    """
    mine = cache_folder()
    others = sorted((f for f in mine.parent.glob("*") if f.is_dir() and f != mine), key=lambda f: f.stat().st_mtime)
    for folder in others[: max(0, len(others) - keep)]:
        shutil.rmtree(folder, ignore_errors=True)


def is_warm() -> bool:
    """Return whether the main kernel for these sources has been compiled before."""
    return (cache_folder() / "warm").exists()
