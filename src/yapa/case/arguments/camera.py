"""A camera of the case: ``wholly inside camera gate``."""

from __future__ import annotations

from yapa.case.arguments.registry import Argument, argument
from yapa.case.base import Name


@argument
class SeenBy(Argument):
    """The camera in whose picture the body is to be, by its name."""

    name = "camera"
    words = "a camera, such as camera gate"
    placeholder = "camera CAMERA"
    keyword = "camera"
    pattern = r"camera\s+(?:(?!\s(?:{stop})\s).)+?(?=\s+(?:{stop})\s|\s*\(|\s*$)"
    kind = Name

    def parse(self, text: str) -> str:
        """Return the name of the camera.

        Parameters
        ----------
        text : the text
        """
        return text.partition("camera")[2].strip()

    def format(self, value: str) -> str:
        """Return ``camera gate``.

        Parameters
        ----------
        value : its value
        """
        return f"camera {value}"
